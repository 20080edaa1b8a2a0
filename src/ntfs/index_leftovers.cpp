#include "ntfs/index_leftovers.hpp"

#include <algorithm>
#include <cstring>

namespace undershelf::ntfs {

namespace {
constexpr std::uint64_t stretch_size = 4 << 20;
constexpr std::uint64_t most_records = 1ull << 32;
constexpr std::size_t header_at = 24;  ///< of an index block's list of entries; its offsets count from here

std::size_t block_size(const Geometry& g) {
    return std::max<std::size_t>(g.index_size, 512);
}

/// Can this be a folder of the user's?
bool can_be_folder(const Reference& folder) {
    return folder.sequence != 0 && folder.record <= most_records &&
           (folder.record >= MFT_REC_FREE || folder.record == MFT_REC_ROOT);
}
}  // namespace

/// Where the used part of an index block or record ends, from its start.
std::size_t IndexLeftovers::used_end(const Stretch& s) {
    const auto used = s.is_record ? load<FileRecord>(s.bytes)->used.value()
                                  : load<little_uint32_buf_t>(s.bytes, header_at + 4)->value();
    return std::min<std::uint64_t>((used + (s.is_record ? 0 : header_at + 7)) / 8 * 8, s.bytes.size());
}

/// A small folder's index is in its record, a larger one's in blocks of its own as well.
void IndexLeftovers::visit_folder(std::uint64_t n, RecordWindows& windows, Budget& budget,
                                  const Visit& visit) const {
    const auto record = table_.mft().get(n, windows.records);
    if (record.bytes.size() >= sizeof(FileRecord)) visit({record.bytes, record.offset, n, true});
    const auto info = table_.file_of(n, windows);
    const auto block = block_size(geometry_);
    for (const auto& run : info.index_runs) {
        if (run.sparse) continue;
        const auto length = run.count * geometry_.cluster_size;
        for (std::uint64_t at = 0; at + block <= length; at += block) {
            if (budget.take(Budget::Cost::index, block) < block) return;
            const auto offset = volume_.offset + run.lcn * geometry_.cluster_size + at;
            auto bytes = source_.read_vector({offset, block});
            if (std::memcmp(bytes.data(), "INDX", 4) != 0) continue;
            undo_fixups(bytes);
            visit({bytes, offset, n, false});
        }
    }
}

void IndexLeftovers::of_folder(std::uint64_t n, RecordWindows& windows, Budget& budget,
                               const LeftoverSink& sink) const {
    visit_folder(n, windows, budget, [&](const Stretch& s) {
        const auto end = used_end(s);
        scan_cut(s, end, sink);
        scan_whole(s, end, sink);
    });
}

void IndexLeftovers::names_of_folder(std::uint64_t n, RecordWindows& windows, Budget& budget,
                                     const LeftoverSink& sink) const {
    visit_folder(n, windows, budget, [&](const Stretch& s) { scan_whole(s, 0, sink); });
}

void IndexLeftovers::of_nobody(const std::vector<ByteRange>& free, Progress& progress,
                               const LeftoverSink& sink) const {
    const RangeSet holding(source_.data_ranges());
    std::uint64_t budget = bound::search_bytes;
    for (const auto& range : free) {
        for (const auto& part : holding.within(range)) {
            for (auto at = part.offset; at < part.end() && budget > 0 && !progress.stopped();) {
                // Ends of data need not be those of clusters.
                const auto phase = (at - volume_.offset) % geometry_.cluster_size;
                const auto from = phase ? at + geometry_.cluster_size - phase : at;
                const auto length =
                    std::min({std::uint64_t{stretch_size}, part.end() - std::min(part.end(), from), budget});
                if (length == 0) break;
                read_free({from, length}, sink);
                budget -= length;
                at = from + length;
            }
        }
    }
}

void IndexLeftovers::of_places(const std::vector<std::uint64_t>& places, Progress& progress,
                               const LeftoverSink& sink) const {
    for (std::size_t i = 0; i < places.size() && !progress.stopped(); ++i) {
        read_free({places[i], block_size(geometry_)}, sink);
        if (i % 1024 == 0) progress.at(i, places.size());
    }
}

void IndexLeftovers::read_free(const ByteRange& range, const LeftoverSink& sink) const {
    const auto block = block_size(geometry_);
    const std::size_t step = std::min<std::size_t>(geometry_.cluster_size, block);
    auto bytes = source_.read_vector(range);
    for (std::size_t at = 0; at + block <= bytes.size(); at += step) {
        if (std::memcmp(bytes.data() + at, "INDX", 4) != 0) continue;
        const auto found = MutableBytes(bytes).subspan(at, block);
        undo_fixups(found);
        const Stretch stretch{found, range.offset + at, std::nullopt, false};
        // Nobody uses the block any more: what was its used part is left over as well.
        scan_whole(stretch, header_at + sizeof(IndexEntry), sink);
        scan_cut(stretch, used_end(stretch), sink);
    }
}

/// Entries of which nothing was written over.
void IndexLeftovers::scan_whole(const Stretch& s, std::size_t from, const LeftoverSink& sink) const {
    for (auto at = from; at + sizeof(IndexEntry) + sizeof(FileName) <= s.bytes.size(); at += 8) {
        if (looks_like_name(s.bytes.subspan(at + sizeof(IndexEntry)))) take(s, at, 0, sink);
    }
}

/// When entries move up, the end mark is written over the head of what they leave behind: the entry that
/// begins before the used part's `end` and goes on after it has lost its reference, and perhaps more. One
/// that has none of its times left must have another entry, or the old end mark, right after it.
void IndexLeftovers::scan_cut(const Stretch& s, std::size_t end, const LeftoverSink& sink) const {
    constexpr std::size_t most_cut = sizeof(IndexEntry) + offsetof(FileName, name_len);
    for (auto at = end > most_cut ? end - most_cut : 0; at < end; at += 8) {
        const auto name_at = at + sizeof(IndexEntry);
        const auto f = load<FileName>(s.bytes, name_at);
        if (!f) return;
        const auto cut = end > name_at ? end - name_at : 0;
        if (!looks_like_name(s.bytes.subspan(name_at), cut)) continue;
        const auto next =
            at + (sizeof(IndexEntry) + sizeof(FileName) + f->name_len * std::size_t{2} + 7) / 8 * 8;
        const bool timeless = cut > offsetof(FileName, a_time);
        if (timeless && (next >= s.bytes.size() || !looks_like_index_entry(s.bytes.subspan(next)))) continue;
        take(s, at, end - at, sink);
        return;
    }
}

/// `cut`: bytes of the entry that were written over.
void IndexLeftovers::take(const Stretch& s, std::size_t at, std::size_t cut, const LeftoverSink& sink) const {
    const auto entry = s.bytes.subspan(at);
    const auto name = parse_name(entry.subspan(sizeof(IndexEntry)));
    if (!name || name->type == FILE_NAME_DOS) return;
    Leftover found;
    found.offset = s.offset + at;
    found.name = *name;
    const auto f = *load<FileName>(entry, sizeof(IndexEntry));
    const auto is_left = [&](std::size_t field) { return cut <= sizeof(IndexEntry) + field; };
    found.is_dir = is_left(offsetof(FileName, fa)) && (f.fa.value() & DUP_FILE_NAME_INDEX_PRESENT);
    if (!found.is_dir && is_left(offsetof(FileName, data_size))) found.size = f.data_size.value();
    if (!is_left(offsetof(FileName, cr_time))) found.name.created.reset();
    if (!is_left(offsetof(FileName, m_time))) found.name.modified.reset();
    if (cut == 0) {
        if (const auto mention = index_entry_mention(entry)) found.file = mention->file;
    }
    // A whole entry says itself which folder it stood in. Otherwise the index's owner goes first, since what
    // was written over the entry's head may reach into its name's.
    const Reference own{name->parent_record, name->parent_sequence};
    const auto& glances = table_.glances();
    if (s.owner && *s.owner < glances.size() && (!found.file || !can_be_folder(own))) {
        found.folder = {*s.owner, glances[*s.owner].sequence};
    } else if (can_be_folder(own) && cut <= sizeof(IndexEntry)) {
        found.folder = own;
    } else {
        return;
    }
    sink(std::move(found));
}

}  // namespace undershelf::ntfs
