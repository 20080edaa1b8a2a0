#include "ntfs/mft.hpp"

#include <tbb/blocked_range.h>
#include <tbb/enumerable_thread_specific.h>
#include <tbb/parallel_for.h>

#include <algorithm>
#include <cstring>

namespace undershelf::ntfs {

namespace {
constexpr std::uint64_t nowhere = ~0ull;
constexpr std::uint64_t records_at_a_time = 4096;

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
        const auto bytes = record_at(source, at, geometry);
        if (!bytes) continue;
        from_mirror_ = cluster != geometry.boot.mft_clst.value();
        const Record zero{*bytes, at, false};
        // The table's own run list may go on in extension records, which its first run holds.
        for (const auto& a : attributes_of(zero.bytes)) {
            if (a.type != ATTR_DATA || !a.name().empty()) continue;
            set_runs(runs_of(a, geometry).value_or(std::vector<Run>{}));
            if (const auto head = load<NonResidentHead>(a.bytes))
                records_ = head->data_size.value() / geometry.record_size;
        }
        RecordWindow window(geometry.record_size);
        auto info = read_file(source, volume_offset, geometry, zero, MFT_REC_MFT,
                              [&](std::uint64_t n) { return get(n, window); });
        for (auto& s : info.streams) {
            if (s.name.empty() && !s.runs.empty()) set_runs(s.runs);
        }
        if (!parts_.empty()) break;
    }
    records_ = std::min(records_, held());
}

Mft::Mft(const Source& source, std::uint64_t volume_offset, const Geometry& geometry,
         std::vector<TablePart> parts)
    : source_(source), volume_offset_(volume_offset), geometry_(geometry), parts_(std::move(parts)) {
    records_ = held();
}

/// A volume has no more records than its source has room for.
std::uint64_t Mft::held() const {
    const auto end = parts_.empty() ? 0 : parts_.back().offset + parts_.back().source.length;
    return std::min(end, source_.size()) / geometry_.record_size;
}

void Mft::set_runs(const std::vector<Run>& runs) {
    parts_.clear();
    std::uint64_t at = 0;
    for (const auto& r : runs) {
        const auto length = r.count * geometry_.cluster_size;
        if (!r.sparse) parts_.push_back({at, {volume_offset_ + r.lcn * geometry_.cluster_size, length}});
        at += length;
    }
}

std::uint64_t Mft::place_of(std::uint64_t number) const {
    const auto at = number * geometry_.record_size;
    const auto it = std::upper_bound(parts_.begin(), parts_.end(), at,
                                     [](std::uint64_t x, const TablePart& p) { return x < p.offset; });
    if (it == parts_.begin()) return nowhere;
    const auto& part = *std::prev(it);
    return at - part.offset < part.source.length ? part.source.offset + (at - part.offset) : nowhere;
}

Record Mft::get(std::uint64_t number, RecordWindow& window) const {
    Record out;
    if (number >= std::max<std::uint64_t>(records_, 1)) return out;
    out.offset = place_of(number);
    const std::size_t size = geometry_.record_size;
    if (out.offset == nowhere || out.offset >= source_.size()) return out;
    if (window.start > out.offset || out.offset + size > window.start + window.bytes.size() ||
        (out.offset - window.start) % size != 0) {
        const auto count =
            std::max<std::uint64_t>(1, std::min(window.most, source_.size() - out.offset) / size);
        window.start = out.offset;
        window.bytes.resize(static_cast<std::size_t>(count) * size);
        window.torn.assign(static_cast<std::size_t>(count), false);
        source_.read(window.start, window.bytes);
        for (std::size_t i = 0; i < window.torn.size(); ++i) {
            const auto record = MutableBytes(window.bytes).subspan(i * size, size);
            if (std::memcmp(record.data(), "FILE", 4) == 0) window.torn[i] = !undo_fixups(record);
        }
    }
    const auto at = static_cast<std::size_t>(out.offset - window.start);
    if (std::memcmp(window.bytes.data() + at, "FILE", 4) != 0) return out;
    out.bytes = Bytes(window.bytes).subspan(at, size);
    out.torn = window.torn[at / size];
    return out;
}

std::vector<Glance> Mft::glance(Progress& progress) const {
    std::vector<Glance> out(records_);
    tbb::enumerable_thread_specific<RecordWindow> windows;
    using Range = tbb::blocked_range<std::uint64_t>;
    tbb::parallel_for(Range(0, records_, records_at_a_time), [&](const Range& range) {
        auto& window = windows.local();
        for (auto n = range.begin(); n < range.end() && !progress.stopped(); ++n) {
            const auto record = get(n, window);
            const auto head = load<FileRecord>(record.bytes);
            if (!head) continue;
            auto& g = out[n];
            g.is_record = true;
            g.sequence = head->seq.value();
            g.in_use = head->flags.value() & RECORD_FLAG_IN_USE;
            g.is_dir = head->flags.value() & RECORD_FLAG_DIR;
            g.is_base = (head->parent_ref.value() & 0xFFFFFFFFFFFF) == 0;
            g.torn = record.torn;
            g.is_extend = stands_in_extend(record.bytes);
        }
    });
    return out;
}

}  // namespace undershelf::ntfs
