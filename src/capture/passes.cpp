#include "capture/passes.hpp"

#include <algorithm>

namespace undershelf {

namespace {

constexpr std::uint64_t block = Copier::block_size;
constexpr std::uint64_t short_read = 64 << 10;
/// The longest leaps of the passes over what waits: the last one leaps over nothing.
constexpr std::uint64_t leaps[] = {64 * block, 16 * block, 4 * block, 0};

/// The first, and the last, part of a range that does not cross a multiple of `unit`.
ByteRange head_of(const ByteRange& r, std::uint64_t unit) {
    return {r.offset, std::min(r.end(), (r.offset / unit + 1) * unit) - r.offset};
}
ByteRange tail_of(const ByteRange& r, std::uint64_t unit) {
    const auto from = std::max(r.offset, (r.end() - 1) / unit * unit);
    return {from, r.end() - from};
}

/// Steps that grow while reading fails.
class Leap {
  public:
    explicit Leap(std::uint64_t longest) : longest_(longest) {}
    std::uint64_t after(bool smooth) {
        if (smooth) {
            next_ = block;
            return 0;
        }
        const auto out = std::min(next_, longest_);
        next_ *= 2;
        return out;
    }

  private:
    std::uint64_t longest_, next_ = block;
};

}  // namespace

void Passes::run(const std::vector<ByteRange>& ranges) {
    bool first = true;
    for (const auto longest : leaps) {
        if (stopped()) return;
        bool waits = false;
        for (const auto& r : ranges) waits |= copier_.coverage().first(CoverageState::waiting, r).has_value();
        if (!waits) break;
        const bool backward = first == options_.from_end;
        copier_.progress().stage(backward ? "back" : "ahead");
        sweep(ranges, backward, longest);
        first = false;
    }
    if (!stopped()) edges(ranges);
    again(ranges);
}

void Passes::sweep(const std::vector<ByteRange>& ranges, bool backward, std::uint64_t longest_leap) {
    if (backward) {
        for (auto it = ranges.rbegin(); it != ranges.rend(); ++it) sweep_backward(*it, longest_leap);
    } else {
        for (const auto& r : ranges) sweep_forward(r, longest_leap);
    }
}

void Passes::sweep_forward(const ByteRange& range, std::uint64_t longest_leap) {
    Leap leap(longest_leap);
    for (auto at = range.offset; at < range.end() && !stopped();) {
        const auto next = copier_.coverage().first(CoverageState::waiting, {at, range.end() - at});
        if (!next) return;
        const auto piece = head_of(*next, block);
        at = piece.end() + leap.after(copier_.read(piece, CoverageState::leapt));
    }
}

void Passes::sweep_backward(const ByteRange& range, std::uint64_t longest_leap) {
    Leap leap(longest_leap);
    for (auto end = range.end(); end > range.offset && !stopped();) {
        const auto next = copier_.coverage().last(CoverageState::waiting, {range.offset, end - range.offset});
        if (!next) return;
        const auto piece = tail_of(*next, block);
        const auto step = leap.after(copier_.read(piece, CoverageState::leapt));
        end = piece.offset - std::min(step, piece.offset);
    }
}

std::vector<ByteRange> Passes::leapt(const std::vector<ByteRange>& ranges, bool narrowed) const {
    std::vector<ByteRange> out;
    for (const auto& r : ranges) {
        for (const auto& l : copier_.coverage().ranges(CoverageState::leapt, r)) {
            const auto parts = narrowed ? narrowed_.within(l) : narrowed_.gaps_within(l);
            out.insert(out.end(), parts.begin(), parts.end());
        }
    }
    return out;
}

void Passes::edges(const std::vector<ByteRange>& ranges) {
    if (leapt(ranges, false).empty() && leapt(ranges, true).empty()) return;
    copier_.progress().stage("edges");
    close_in(leapt(ranges, false), short_read, false);
    close_in(leapt(ranges, false), short_read, true);
    const auto sector = copier_.device().sector_size();
    close_in(leapt(ranges, true), sector, false);
    close_in(leapt(ranges, true), sector, true);
}

/// A short read, or a single sector. What fails is narrowed down, or unreadable.
bool Passes::read_short(const ByteRange& range) {
    if (range.length <= copier_.device().sector_size()) return copier_.read(range, CoverageState::unreadable);
    const bool smooth = copier_.read(range, CoverageState::leapt);
    for (const auto& l : copier_.coverage().ranges(CoverageState::leapt, range)) {
        narrowed_.add(l);
        copier_.narrowed(l);
    }
    return smooth;
}

/// Reads of `unit` bytes into each range, from its start and then from its end, until one fails; or all of
/// it.
void Passes::close_in(const std::vector<ByteRange>& ranges, std::uint64_t unit, bool to_the_middle) {
    for (const auto& r : ranges) {
        auto left = r;
        while (!left.empty() && !stopped()) {
            const auto piece = head_of(left, unit);
            left = {piece.end(), left.end() - piece.end()};
            if (!read_short(piece) && !to_the_middle) break;
        }
        while (!left.empty() && !stopped()) {
            const auto piece = tail_of(left, unit);
            left.length -= piece.length;
            if (!read_short(piece)) break;
        }
    }
}

void Passes::again(const std::vector<ByteRange>& ranges) {
    const auto sector = copier_.device().sector_size();
    for (unsigned round = 0; round < options_.again && !stopped(); ++round) {
        std::vector<ByteRange> bad;
        for (const auto& r : ranges) {
            for (const auto& u : copier_.coverage().ranges(CoverageState::unreadable, r)) bad.push_back(u);
        }
        if (bad.empty()) return;
        copier_.progress().stage("again");
        // From the other side each time: some heads read what they come to from elsewhere.
        const bool backward = round % 2 == 0;
        if (backward) std::reverse(bad.begin(), bad.end());
        for (auto left : bad) {
            while (!left.empty() && !stopped()) {
                const auto piece = backward ? tail_of(left, sector) : head_of(left, sector);
                left = backward ? ByteRange{left.offset, left.length - piece.length}
                                : ByteRange{piece.end(), left.end() - piece.end()};
                copier_.read(piece, CoverageState::unreadable);
            }
        }
    }
}

}  // namespace undershelf
