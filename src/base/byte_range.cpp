#include "base/byte_range.hpp"

namespace undershelf {

namespace {
/// What a disk says may end beyond all numbers.
ByteRange within_numbers(const ByteRange& r) {
    return {r.offset, std::min(r.length, ~std::uint64_t{0} - r.offset)};
}

void append_merging(std::vector<ByteRange>& out, const ByteRange& next) {
    if (!out.empty() && next.offset <= out.back().end()) {
        out.back().length = std::max(out.back().end(), next.end()) - out.back().offset;
    } else {
        out.push_back(next);
    }
}
}  // namespace

RangeSet::RangeSet(std::vector<ByteRange> ranges) {
    for (auto& r : ranges) r = within_numbers(r);
    std::erase_if(ranges, [](const ByteRange& r) { return r.empty(); });
    std::sort(ranges.begin(), ranges.end(),
              [](const ByteRange& a, const ByteRange& b) { return a.offset < b.offset; });
    for (const auto& r : ranges) append_merging(ranges_, r);
}

void RangeSet::add(ByteRange range) {
    range = within_numbers(range);
    if (range.empty()) return;
    auto first = std::lower_bound(ranges_.begin(), ranges_.end(), range.offset,
                                  [](const ByteRange& r, std::uint64_t at) { return r.end() < at; });
    auto last = first;
    while (last != ranges_.end() && last->offset <= range.end()) {
        const auto end = std::max(range.end(), last->end());
        range.offset = std::min(range.offset, last->offset);
        range.length = end - range.offset;
        ++last;
    }
    ranges_.insert(ranges_.erase(first, last), range);
}

const ByteRange* RangeSet::first_reaching(std::uint64_t from, std::uint64_t to) const {
    auto it = std::upper_bound(ranges_.begin(), ranges_.end(), from,
                               [](std::uint64_t at, const ByteRange& r) { return at < r.end(); });
    return it != ranges_.end() && it->offset < to ? &*it : nullptr;
}

bool RangeSet::contains(std::uint64_t at) const {
    const auto* r = first_reaching(at, at + 1);
    return r && r->contains(at);
}

std::vector<ByteRange> RangeSet::within(const ByteRange& range) const {
    std::vector<ByteRange> out;
    const auto* r = first_reaching(range.offset, range.end());
    if (!r) return out;
    for (const auto* end = ranges_.data() + ranges_.size(); r != end && r->offset < range.end(); ++r) {
        if (auto part = overlap(*r, range)) out.push_back(*part);
    }
    return out;
}

std::vector<ByteRange> RangeSet::gaps_within(const ByteRange& range) const {
    std::vector<ByteRange> out;
    auto at = range.offset;
    for (const auto& held : within(range)) {
        if (held.offset > at) out.push_back({at, held.offset - at});
        at = held.end();
    }
    if (at < range.end()) out.push_back({at, range.end() - at});
    return out;
}

}  // namespace undershelf
