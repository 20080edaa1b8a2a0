#include "scan/sweep.hpp"

namespace undershelf {

namespace {
constexpr std::uint64_t block_size = 4 << 20;
/// Holes that are shorter are read with what lies around them.
constexpr std::uint64_t short_hole = 1 << 20;
}  // namespace

SweepBlocks::SweepBlocks(const std::vector<ByteRange>& ranges, std::uint64_t from) : at_(from) {
    for (const auto& r : ranges) {
        if (!ranges_.empty() && r.offset - ranges_.back().end() < short_hole) {
            ranges_.back().length = r.end() - ranges_.back().offset;
        } else {
            ranges_.push_back(r);
        }
    }
}

ByteRange SweepBlocks::next() {
    for (; range_ < ranges_.size(); ++range_) {
        const auto& range = ranges_[range_];
        // Whole sectors, and blocks that start at the same places however the sweep began.
        at_ = std::max(at_, range.offset / 512 * 512);
        if (at_ >= range.end()) continue;
        const auto end = std::min(range.end(), (at_ / block_size + 1) * block_size);
        const ByteRange out{at_, end - at_};
        at_ = end;
        return out;
    }
    return {};
}

}  // namespace undershelf
