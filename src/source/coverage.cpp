#include "source/coverage.hpp"

#include <array>

#include "base/ensure.hpp"

namespace undershelf {

namespace {
constexpr std::array<std::string_view, coverage_states> words{"waiting", "copied", "zeros", "leapt",
                                                              "unreadable"};
}

std::string_view word_of(CoverageState state) {
    return words[static_cast<std::size_t>(state)];
}

std::optional<CoverageState> coverage_state_named(std::string_view word) {
    for (std::size_t i = 0; i < words.size(); ++i) {
        if (words[i] == word) return static_cast<CoverageState>(i);
    }
    return std::nullopt;
}

Coverage::Coverage(std::uint64_t size) : size_(size) {
    if (size) starts_[0] = CoverageState::waiting;
    bytes_[0] = size;
}

std::map<std::uint64_t, CoverageState>::const_iterator Coverage::stretch_of(std::uint64_t offset) const {
    return std::prev(starts_.upper_bound(offset));
}

Coverage::Stretch Coverage::cut(std::map<std::uint64_t, CoverageState>::const_iterator it,
                                const ByteRange& range) const {
    const auto next = std::next(it);
    const auto from = std::max(it->first, range.offset);
    const auto to = std::min(next == starts_.end() ? size_ : next->first, range.end());
    return {{from, to - from}, it->second};
}

void Coverage::set(const ByteRange& range, CoverageState state) {
    ensure(range.offset <= size_ && range.length <= size_ - range.offset, "copied beyond the source's end");
    if (range.empty()) return;
    for (const auto& old : within(range)) bytes_[static_cast<std::size_t>(old.state)] -= old.range.length;
    bytes_[static_cast<std::size_t>(state)] += range.length;
    if (range.end() < size_) starts_.emplace(range.end(), at(range.end() - 1));
    auto it = starts_.lower_bound(range.offset);
    while (it != starts_.end() && it->first < range.end()) it = starts_.erase(it);
    // Neighbours of the same state become one.
    if (it != starts_.end() && it->first == range.end() && it->second == state) starts_.erase(it);
    if (range.offset == 0 || at(range.offset - 1) != state) starts_.emplace(range.offset, state);
}

CoverageState Coverage::at(std::uint64_t offset) const {
    return stretch_of(offset)->second;
}

std::vector<Coverage::Stretch> Coverage::within(const ByteRange& range) const {
    std::vector<Stretch> out;
    if (range.empty()) return out;
    for (auto it = stretch_of(range.offset); it != starts_.end() && it->first < range.end(); ++it)
        out.push_back(cut(it, range));
    return out;
}

std::vector<ByteRange> Coverage::ranges(CoverageState state, const ByteRange& range) const {
    std::vector<ByteRange> out;
    if (range.empty()) return out;
    for (auto it = stretch_of(range.offset); it != starts_.end() && it->first < range.end(); ++it) {
        if (it->second == state) out.push_back(cut(it, range).range);
    }
    return out;
}

std::optional<ByteRange> Coverage::first(CoverageState state, const ByteRange& range) const {
    if (range.empty()) return std::nullopt;
    for (auto it = stretch_of(range.offset); it != starts_.end() && it->first < range.end(); ++it) {
        if (it->second == state) return cut(it, range).range;
    }
    return std::nullopt;
}

std::optional<ByteRange> Coverage::last(CoverageState state, const ByteRange& range) const {
    if (range.empty()) return std::nullopt;
    for (auto it = stretch_of(range.end() - 1);; --it) {
        if (it->second == state) return cut(it, range).range;
        if (it == starts_.begin() || it->first <= range.offset) return std::nullopt;
    }
}

bool Coverage::holds(const ByteRange& range) const {
    if (range.empty()) return true;
    for (auto it = stretch_of(range.offset); it != starts_.end() && it->first < range.end(); ++it) {
        if (!is_in_image(it->second)) return false;
    }
    return true;
}

}  // namespace undershelf
