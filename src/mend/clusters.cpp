#include "mend/clusters.hpp"

#include <algorithm>

#include "content/characters.hpp"

namespace undershelf {

FreeClusters::FreeClusters(std::uint64_t grid_start, std::uint32_t step, const ByteRange& range,
                           const RangeSet& taken)
    : grid_start_(grid_start), step_(step), range_(range), taken_(taken) {
    // Whole clusters alone.
    if (range_.offset < grid_start_)
        range_ = {grid_start_, range_.end() - std::min(range_.end(), grid_start_)};
    const auto from = (range_.offset - grid_start_ + step_ - 1) / step_ * step_ + grid_start_;
    const auto end = (range_.end() - grid_start_) / step_ * step_ + grid_start_;
    range_ = {from, end - std::min(end, from)};
}

bool FreeClusters::is_free(std::uint64_t offset) const {
    return on_grid(offset) && !taken_.touches({offset, step_});
}

std::optional<std::uint64_t> FreeClusters::after(std::uint64_t offset) const {
    return next_from(std::max(offset + step_, range_.offset));
}

std::optional<std::uint64_t> FreeClusters::before(std::uint64_t offset) const {
    while (offset >= range_.offset + step_) {
        offset -= step_;
        if (is_free(offset)) return offset;
    }
    return std::nullopt;
}

std::optional<std::uint64_t> FreeClusters::first() const {
    return next_from(range_.offset);
}

std::optional<std::uint64_t> FreeClusters::next_from(std::uint64_t at) const {
    while (at < range_.end()) {
        const auto gaps =
            taken_.gaps_within({at, std::min<std::uint64_t>(range_.end() - at, std::uint64_t{step_} * 1024)});
        for (const auto& gap : gaps) {
            const auto from = (gap.offset - grid_start_ + step_ - 1) / step_ * step_ + grid_start_;
            if (from + step_ <= gap.end()) return from;
        }
        at += std::uint64_t{step_} * 1024;
    }
    return std::nullopt;
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
    if (glance.text && format.filling == Filling::dense) return false;
    return !glance.begins || format.holds_files;
}

}  // namespace undershelf
