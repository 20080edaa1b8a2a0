#pragma once
// Byte ranges of a source or a file, and sets of them. All offsets and lengths are bytes.

#include <algorithm>
#include <cstdint>
#include <optional>
#include <span>
#include <utility>
#include <vector>

namespace undershelf {

struct ByteRange {
    std::uint64_t offset = 0;
    std::uint64_t length = 0;

    std::uint64_t end() const { return offset + length; }
    bool empty() const { return length == 0; }
    bool contains(std::uint64_t at) const { return at >= offset && at - offset < length; }
    bool operator==(const ByteRange&) const = default;
};

/// The bytes both ranges hold; nothing where they do not meet.
inline std::optional<ByteRange> overlap(const ByteRange& a, const ByteRange& b) {
    const auto from = std::max(a.offset, b.offset);
    const auto to = std::min(a.end(), b.end());
    if (from >= to) return std::nullopt;
    return ByteRange{from, to - from};
}

inline std::uint64_t total_length(std::span<const ByteRange> ranges) {
    std::uint64_t sum = 0;
    for (const auto& r : ranges) sum += r.length;
    return sum;
}

/// A set of bytes kept as ascending, disjoint, never touching ranges.
class RangeSet {
  public:
    RangeSet() = default;
    /// Takes ranges in any order, overlapping or not. What ends beyond all numbers is cut there.
    explicit RangeSet(std::vector<ByteRange> ranges);

    void add(ByteRange range);
    bool contains(std::uint64_t at) const;
    bool touches(const ByteRange& range) const {
        return first_reaching(range.offset, range.end()) != nullptr;
    }
    /// The first range of the set that has a byte in common with `range`; null for none. Good until the set
    /// changes.
    const ByteRange* first_in(const ByteRange& range) const {
        return first_reaching(range.offset, range.end());
    }
    /// The parts of `range` that are in the set, ascending.
    std::vector<ByteRange> within(const ByteRange& range) const;
    /// The parts of `range` that are not in the set, ascending.
    std::vector<ByteRange> gaps_within(const ByteRange& range) const;
    const std::vector<ByteRange>& ranges() const& { return ranges_; }
    std::vector<ByteRange> ranges() && { return std::move(ranges_); }
    bool empty() const { return ranges_.empty(); }
    std::uint64_t bytes() const { return total_length(ranges_); }

  private:
    const ByteRange* first_reaching(std::uint64_t from, std::uint64_t to) const;
    std::vector<ByteRange> ranges_;
};

}  // namespace undershelf
