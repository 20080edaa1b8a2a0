#include "scan/trace_limits.hpp"

namespace undershelf {

namespace {
constexpr std::uint64_t most_of_kind = 16 << 20;
/// So many volumes one after the other on one source, each with a folder of the same number, are none any
/// more. Different traces may share a count, so that this is well above what an honest source of a terabyte
/// has.
constexpr std::uint16_t most_alike = 4096;
}  // namespace

std::uint16_t& TraceLimits::alike(const std::string& family, const Trace& t) {
    auto x = (t.a * 0x9E3779B97F4A7C15ull) ^ (t.b * 0xBF58476D1CE4E5B9ull) ^ t.kind ^
             std::hash<std::string>()(family);
    x = (x ^ x >> 31) * 0x94D049BB133111EBull;
    return alike_[(x ^ x >> 29) % slots];
}

void TraceLimits::count(const std::string& family, const Trace& t) {
    auto& same = alike(family, t);
    if (same < most_alike) ++same;
    ++of_kind_[{family, t.kind}];
    ++kept_;
}

bool TraceLimits::admit(const std::string& family, const Trace& t) {
    if (alike(family, t) >= most_alike || of_kind_[{family, t.kind}] >= most_of_kind) {
        ++left_out_[{family, t.kind}];
        return false;
    }
    count(family, t);
    return true;
}

}  // namespace undershelf
