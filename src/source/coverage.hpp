#pragma once
// Which bytes of a source have been copied into an image, and what became of the others.
// docs/coverage-format.md describes the file in which this is kept beside the image.

#include <cstdint>
#include <map>
#include <optional>
#include <string>
#include <vector>

#include "base/byte_range.hpp"

namespace undershelf {

enum class CoverageState : std::uint8_t {
    waiting,     ///< not asked for yet
    copied,      ///< read, and in the image
    zeros,       ///< read as zeros alone: a hole in the image
    leapt,       ///< in a longer read that failed; not narrowed down yet
    unreadable,  ///< failed sector by sector
};
constexpr std::size_t coverage_states = 5;

std::string_view word_of(CoverageState state);
std::optional<CoverageState> coverage_state_named(std::string_view word);

constexpr bool is_in_image(CoverageState s) {
    return s == CoverageState::copied || s == CoverageState::zeros;
}

/// Every byte of a source has one state.
class Coverage {
  public:
    struct Stretch {
        ByteRange range;
        CoverageState state = CoverageState::waiting;
        bool operator==(const Stretch&) const = default;
    };

    /// All of `size` bytes is waiting.
    explicit Coverage(std::uint64_t size);

    std::uint64_t size() const { return size_; }
    /// A range that is not within the source is a mistake.
    void set(const ByteRange& range, CoverageState state);
    CoverageState at(std::uint64_t offset) const;
    std::uint64_t bytes(CoverageState state) const { return bytes_[static_cast<std::size_t>(state)]; }
    /// All of it, ascending; neighbours differ in their state.
    std::vector<Stretch> stretches() const { return within({0, size_}); }
    std::vector<Stretch> within(const ByteRange& range) const;
    /// The parts of `range` with this state, ascending.
    std::vector<ByteRange> ranges(CoverageState state, const ByteRange& range) const;
    std::vector<ByteRange> ranges(CoverageState state) const { return ranges(state, {0, size_}); }
    /// The first, and the last, stretch of a state within `range`, cut to it.
    std::optional<ByteRange> first(CoverageState state, const ByteRange& range) const;
    std::optional<ByteRange> last(CoverageState state, const ByteRange& range) const;
    /// Is every byte of `range` in the image?
    bool holds(const ByteRange& range) const;

    bool operator==(const Coverage&) const = default;

  private:
    std::map<std::uint64_t, CoverageState>::const_iterator stretch_of(std::uint64_t offset) const;
    Stretch cut(std::map<std::uint64_t, CoverageState>::const_iterator it, const ByteRange& range) const;

    std::uint64_t size_;
    std::map<std::uint64_t, CoverageState> starts_;  ///< of stretches; the first is 0 unless there are none
    std::uint64_t bytes_[coverage_states] = {};
};

/// Is nothing of the source in the image?
inline bool holds_nothing(const Coverage& c) {
    return c.bytes(CoverageState::copied) + c.bytes(CoverageState::zeros) == 0;
}

}  // namespace undershelf
