#include "ntfs/mft.hpp"

#include <algorithm>
#include <cstring>

namespace undershelf::ntfs {

namespace {
constexpr std::uint64_t nowhere = ~0ull;
constexpr std::uint64_t window_size = 1 << 20;

bool stands_in_extend(Bytes record) {
    for (const auto& a : attributes_of(record)) {
        if (a.type != ATTR_NAME) continue;
        const auto name = load<FileName>(a.value());
        return name && (name->home.value() & 0xFFFFFFFFFFFF) == MFT_REC_EXTEND;
    }
    return false;
}
}  // namespace

Mft::Mft(const Source& source, std::uint64_t volume_offset, const Geometry& geometry)
    : source_(source), volume_offset_(volume_offset), geometry_(geometry) {
    for (const auto cluster : {geometry.boot.mft_clst.value(), geometry.boot.mft2_clst.value()}) {
        const auto at = volume_offset + cluster * geometry.cluster_size;
        auto bytes = record_at(source, at, geometry);
        if (!bytes) continue;
        from_mirror_ = cluster != geometry.boot.mft_clst.value();
        const Record zero{std::move(*bytes), at};
        // The table's own run list may go on in extension records, which its first run holds.
        for (const auto& a : attributes_of(zero.bytes)) {
            if (a.type != ATTR_DATA || !a.name().empty()) continue;
            runs_ = runs_of(a, geometry.clusters).value_or(std::vector<Run>{});
            if (const auto head = load<NonResidentHead>(a.bytes))
                records_ = head->data_size.value() / geometry.record_size;
        }
        const auto info = read_file(source, volume_offset, geometry, zero, MFT_REC_MFT,
                                    [this](std::uint64_t n) { return get(n); });
        for (const auto& s : info.streams) {
            if (s.name.empty() && !s.runs.empty()) runs_ = s.runs;
        }
        if (!runs_.empty()) break;
    }
    std::uint64_t clusters = 0;
    for (const auto& r : runs_) clusters += r.count;
    records_ = std::min({records_, clusters * geometry.cluster_size / geometry.record_size,
                         source.size() / geometry.record_size});
}

std::uint64_t Mft::place_of(std::uint64_t number) const {
    auto at = number * geometry_.record_size;
    for (const auto& run : runs_) {
        const auto length = run.count * geometry_.cluster_size;
        if (at < length) return run.sparse ? nowhere : volume_offset_ + run.lcn * geometry_.cluster_size + at;
        at -= length;
    }
    return nowhere;
}

Record Mft::get(std::uint64_t number, bool* torn) const {
    Record out;
    if (number >= std::max<std::uint64_t>(records_, 1)) return out;
    out.offset = place_of(number);
    if (out.offset == nowhere) return out;
    const auto size = geometry_.record_size;
    if (window_start_ == ~0ull || out.offset < window_start_ ||
        out.offset + size > window_start_ + window_.size()) {
        window_start_ = out.offset;
        window_.resize(static_cast<std::size_t>(
            std::min(window_size,
                     std::max<std::uint64_t>(size, source_.size() - std::min(source_.size(), out.offset)))));
        source_.read(window_start_, window_);
    }
    const auto from = window_.begin() + static_cast<std::ptrdiff_t>(out.offset - window_start_);
    if (std::memcmp(&*from, "FILE", 4) != 0) return out;
    out.bytes.assign(from, from + size);
    const bool whole = undo_fixups(out.bytes);
    if (torn) *torn = !whole;
    return out;
}

std::vector<Glance> Mft::glance(Progress& progress) const {
    std::vector<Glance> out(records_);
    for (std::uint64_t n = 0; n < records_ && !progress.stopped(); ++n) {
        bool torn = false;
        const auto record = get(n, &torn);
        const auto head = load<FileRecord>(record.bytes);
        if (!head) continue;
        auto& g = out[n];
        g.is_record = true;
        g.sequence = head->seq.value();
        g.in_use = head->flags.value() & RECORD_FLAG_IN_USE;
        g.is_dir = head->flags.value() & RECORD_FLAG_DIR;
        g.is_base = (head->parent_ref.value() & 0xFFFFFFFFFFFF) == 0;
        g.torn = torn;
        g.is_extend = stands_in_extend(record.bytes);
        if (n % 4096 == 0) progress.at(n, 2 * records_);
    }
    return out;
}

}  // namespace undershelf::ntfs
