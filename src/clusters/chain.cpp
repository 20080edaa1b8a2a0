#include "clusters/chain.hpp"

#include <algorithm>
#include <unordered_set>

namespace undershelf::clusters {

void cut_loop(Chain& chain) {
    // Only a step backwards can close a loop.
    const auto back = std::adjacent_find(chain.runs.begin(), chain.runs.end(),
                                         [](const Run& a, const Run& b) { return b.first < a.end(); });
    if (back == chain.runs.end()) return;
    std::unordered_set<Cluster> seen;
    std::vector<Run> kept;
    for (const auto& run : chain.runs) {
        for (Cluster c = run.first; c < run.end(); ++c) {
            if (!seen.insert(c).second) {
                chain.runs = std::move(kept);
                chain.end = ChainEnd::loop;
                return;
            }
            append_cluster(kept, c);
        }
    }
}

TableEntries::TableEntries(const Source& source, const ByteRange& range, unsigned bits)
    : source_(source), range_(range), bits_(bits) {}

TableEntries::TableEntries(const Source& source, const ByteRange& range, unsigned bits, RangeSet left)
    : source_(source), range_(range), bits_(bits), left_(std::move(left)) {}

std::uint64_t TableEntries::on_source() const {
    const auto there = source_.size() > range_.offset ? source_.size() - range_.offset : 0;
    return (std::min(range_.length, there) * 8 + bits_ - 1) / bits_;
}

std::optional<std::uint32_t> TableEntries::at(Cluster c) const {
    const std::uint64_t at = std::uint64_t{c} * bits_ / 8;
    const unsigned bytes = bits_ == 32 ? 4 : 2;
    if (at + bytes > range_.length || range_.offset + at >= source_.size()) return std::nullopt;
    // Windows overlap by a few bytes, since a 12-bit entry may lie across two of them.
    const auto start = at / window_size * window_size;
    if (window_.start != start) {
        window_.bytes.resize(static_cast<std::size_t>(std::min(window_size + 4, range_.length - start)));
        window_.missing = source_.read(range_.offset + start, window_.bytes);
        window_.start = start;
        if (left_) {
            const auto lost = left_->gaps_within({range_.offset + start, window_.bytes.size()});
            window_.missing.insert(window_.missing.end(), lost.begin(), lost.end());
        }
    }
    for (const auto& m : window_.missing) {
        if (overlap(m, {range_.offset + at, bytes})) return std::nullopt;
    }
    const std::uint8_t* p = window_.bytes.data() + (at - start);
    const std::uint32_t low = p[0] | static_cast<std::uint32_t>(p[1]) << 8;
    if (bits_ == 32)
        return low | static_cast<std::uint32_t>(p[2]) << 16 | static_cast<std::uint32_t>(p[3]) << 24;
    return bits_ == 16 ? low : c % 2 ? low >> 4 : low & 0xFFF;
}

bool TableEntries::window_is_zero(Cluster c) const {
    return at(c) == 0u && window_.missing.empty() && all_zero(window_.bytes);
}

}  // namespace undershelf::clusters
