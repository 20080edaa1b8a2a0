#include "mend/clusters.hpp"

#include <algorithm>

#include "content/characters.hpp"

namespace undershelf {

FreeClusters::FreeClusters(std::uint64_t grid_start, std::uint32_t step, const ByteRange& range,
                           const RangeSet& taken)
    : grid_start_(grid_start), step_(step), range_(range), taken_(taken) {
    // Whole clusters alone.
    const auto end = std::max(range_.end(), grid_start_), from = std::max(range_.offset, grid_start_);
    const auto first_step = step_at_or_after(from), last_step = end - (end - grid_start_) % step_;
    range_ = {first_step, last_step - std::min(last_step, first_step)};
}

std::uint64_t FreeClusters::step_at_or_after(std::uint64_t offset) const {
    return grid_start_ + (offset - grid_start_ + step_ - 1) / step_ * step_;
}

bool FreeClusters::is_free(std::uint64_t offset) const {
    return on_grid(offset) && !taken_.touches({offset, step_});
}

std::optional<std::uint64_t> FreeClusters::after(std::uint64_t offset) const {
    return next_from(std::max(offset + step_, range_.offset));
}

std::optional<std::uint64_t> FreeClusters::before(std::uint64_t offset) const {
    // What is taken is stepped over at once, however long it is.
    while (offset >= range_.offset + step_) {
        offset -= step_;
        const auto* held = taken_.first_in({offset, step_});
        if (!held) return offset;
        if (held->offset < offset) offset -= (offset - std::max(held->offset, range_.offset)) / step_ * step_;
    }
    return std::nullopt;
}

std::optional<std::uint64_t> FreeClusters::first() const {
    return next_from(range_.offset);
}

std::optional<std::uint64_t> FreeClusters::next_from(std::uint64_t at) const {
    while (at < range_.end()) {
        const auto* held = taken_.first_in({at, step_});
        if (!held) return at;
        at = std::max(at + step_, step_at_or_after(held->end()));
    }
    return std::nullopt;
}

std::vector<ByteRange> ranges_of(const std::vector<std::uint64_t>& clusters, std::uint64_t size,
                                 std::uint32_t step) {
    std::vector<ByteRange> out;
    for (const auto offset : clusters) {
        if (size == 0) break;
        const auto length = std::min<std::uint64_t>(step, size);
        if (!out.empty() && out.back().end() == offset)
            out.back().length += length;
        else
            out.push_back({offset, length});
        size -= length;
    }
    return out;
}

Glance glance_at(const Source& source, std::uint64_t offset, std::uint32_t step) {
    constexpr std::size_t sector = 512;
    ByteVector bytes(std::min<std::size_t>(step, 4096));
    source.read(offset, bytes);
    Glance out;
    out.zeros = all_zero(bytes);
    const auto first = Bytes(bytes).first(std::min(sector, bytes.size()));
    out.text = !out.zeros && encoding_of(first).has_value();
    const auto seen = start_seen(bytes);
    constexpr double surely = 0.9;
    out.begins = seen.format && seen.sure >= surely && !is_text(*seen.format);
    return out;
}

bool may_go_on(const Format& format, const Glance& glance) {
    if (glance.zeros && (format.filling == Filling::no_zeros || format.filling == Filling::dense))
        return false;
    // Pictures and films keep texts about themselves.
    if (glance.text && format.filling == Filling::dense && format.kind == Kind::archive) return false;
    return !glance.begins || format.holds_files;
}

}  // namespace undershelf
