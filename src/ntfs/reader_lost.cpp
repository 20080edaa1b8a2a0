#include <fmt/format.h>

#include <algorithm>
#include <cstring>

#include "base/text.hpp"
#include "ntfs/log_file.hpp"
#include "ntfs/reader.hpp"

namespace undershelf::ntfs {

namespace {

constexpr std::uint64_t stretch_size = 4 << 20;
constexpr std::uint64_t most_records = 1ull << 32;
}  // namespace

// Leftovers in folder indexes, and lives of records that only journals tell of.

void Reader::remnants(EntrySink& sink, Progress& progress) {
    progress.stage("reading index leftovers");
    const auto& glances = table_.glances();
    for (std::uint64_t n = 0; n < glances.size() && !progress.stopped(); ++n) {
        if (glances[n].is_record && glances[n].is_base && glances[n].is_dir) read_index(n, sink);
        if (n % 1024 == 0) progress.at(n, glances.size());
    }
    read_free_indexes(sink, progress);
    for (const auto& [file, life] : table_.past().all()) {
        if (!progress.stopped()) read_past_life(file, life, sink);
    }
}

void Reader::read_index(std::uint64_t folder, EntrySink& sink) {
    const auto record = table_.mft().get(folder, windows_.records);
    read_record_slack(record, folder, sink);
    const auto info = table_.file_of(folder, windows_);
    const auto block = std::max<std::uint64_t>(geometry_.index_size, 512);
    for (const auto& run : info.index_runs) {
        if (run.sparse) continue;
        const auto length = run.count * geometry_.cluster_size;
        for (std::uint64_t at = 0; at + block <= length; at += block) {
            if (sink.budget().take(Budget::Cost::index, block) < block) return;
            const auto offset = volume_.offset + run.lcn * geometry_.cluster_size + at;
            auto bytes = source_.read_vector({offset, block});
            if (std::memcmp(bytes.data(), "INDX", 4) != 0) continue;
            undo_fixups(bytes);
            read_index_slack(bytes, offset, folder, sink);
        }
    }
}

/// Index blocks of folders whose own record is gone lie in free clusters; the names in them tell the folder.
/// Looks at a part of a large volume only: the rest is for sweeping.
void Reader::read_free_indexes(EntrySink& sink, Progress& progress) {
    progress.stage("looking for lost index blocks");
    const RangeSet holding(source_.data_ranges());
    std::uint64_t budget = bound::search_bytes;
    for (const auto& range : free_) {
        for (const auto& part : holding.within(range)) {
            for (auto at = part.offset; at < part.end() && budget > 0 && !progress.stopped();) {
                // Ends of data need not be those of clusters.
                const auto phase = (at - volume_.offset) % geometry_.cluster_size;
                const auto from = phase ? at + geometry_.cluster_size - phase : at;
                const auto length =
                    std::min({std::uint64_t{stretch_size}, part.end() - std::min(part.end(), from), budget});
                if (length == 0) break;
                read_free_stretch({from, length}, sink);
                budget -= length;
                at = from + length;
            }
        }
    }
}

void Reader::read_free_stretch(const ByteRange& range, EntrySink& sink) {
    const std::size_t block = std::max<std::size_t>(geometry_.index_size, 512);
    const std::size_t step = std::min<std::size_t>(geometry_.cluster_size, block);
    auto bytes = source_.read_vector(range);
    for (std::size_t at = 0; at + block <= bytes.size(); at += step) {
        if (std::memcmp(bytes.data() + at, "INDX", 4) != 0) continue;
        const auto found = MutableBytes(bytes).subspan(at, block);
        undo_fixups(found);
        scan_slack(found, sizeof(IndexEntry) + 24, range.offset + at, std::nullopt, sink);
    }
}

/// An index block's header gives the first entry and the end of the used part, counted from offset 24. Behind
/// that end stand entries that were removed or moved.
void Reader::read_index_slack(Bytes block, std::uint64_t offset, std::uint64_t folder, EntrySink& sink) {
    const auto used = load<little_uint32_buf_t>(block, 24 + 4);
    if (!used) return;
    scan_slack(block, (24 + std::size_t{used->value()} + 7) / 8 * 8, offset, folder, sink);
}

/// A small folder's index stands in its record; entries that were removed from it stay behind the record's
/// used part. The end mark may have been written over the first of them, whose head stands before it.
void Reader::read_record_slack(const Record& record, std::uint64_t folder, EntrySink& sink) {
    const auto head = load<FileRecord>(record.bytes);
    if (!head) return;
    constexpr std::size_t before = sizeof(IndexEntry) + sizeof(FileName) + 6;
    const std::size_t used = head->used.value() / 8 * 8;
    scan_slack(record.bytes, used > before ? (used - before) / 8 * 8 : 0, record.offset, folder, sink);
}

void Reader::scan_slack(Bytes bytes, std::size_t at, std::uint64_t offset,
                        std::optional<std::uint64_t> folder, EntrySink& sink) {
    for (; at + sizeof(IndexEntry) + sizeof(FileName) <= bytes.size(); at += 8) {
        if (looks_like_name(bytes.subspan(at + sizeof(IndexEntry))))
            read_index_remnant(bytes.subspan(at), offset + at, folder, sink);
    }
}

/// Is this one of the names that records tell? Most volumes have few leftovers: sorted when first asked.
bool Reader::is_told(std::uint64_t print) {
    if (!names_sorted_) std::sort(names_told_.begin(), names_told_.end());
    names_sorted_ = true;
    return std::binary_search(names_told_.begin(), names_told_.end(), print);
}

void Reader::read_index_remnant(Bytes bytes, std::uint64_t offset, std::optional<std::uint64_t> owner,
                                EntrySink& sink) {
    const auto name = parse_name(bytes.subspan(sizeof(IndexEntry)));
    if (!name || name->type == FILE_NAME_DOS) return;
    const auto f = *load<FileName>(bytes, sizeof(IndexEntry));
    // An end entry written over the head takes the reference; the name behind it stays.
    const auto mention = index_entry_mention(bytes);
    // Files whose record still tells of them are listed already, under this name or a later one.
    if (mention && (mention->file.record < MFT_REC_FREE || table_.is_known(mention->file))) return;
    // A name says itself which folder it stood in, unless that was written over: the index's owner goes
    // first.
    const Reference folder{owner.value_or(name->parent_record), owner && *owner < table_.glances().size()
                                                                    ? table_.glances()[*owner].sequence
                                                                    : name->parent_sequence};
    if (!owner && (folder.sequence == 0 || folder.record > most_records ||
                   (folder.record < MFT_REC_FREE && folder.record != MFT_REC_ROOT)))
        return;
    const auto print = name_print(folder.record, *name);
    if (is_told(print) || !remnants_told_.insert(print).second) return;
    Entry e;
    e.key = {offset, leftover_life};
    e.parent = table_.parent_of(folder).key;
    e.origin = Origin::deleted;
    e.name = utf8_from_utf16(name->name);
    e.is_dir = f.fa.value() & DUP_FILE_NAME_INDEX_PRESENT;
    e.size = e.is_dir ? 0 : f.data_size.value();
    e.created = name->created;
    e.modified = name->modified;
    e.evidence.push_back({Fact::from_index, offset, 0,
                          "Only its folder's index still names it; its record has been used again."});
    if (mention) {
        if (!lives_told_.insert(mention->file).second) return;
        e.key = life_key(mention->file);
        if (const auto* life = table_.past().find(mention->file); life && life->deleted) {
            e.deleted = life->deleted;
            e.evidence.push_back(
                {Fact::from_journal, life->source, 0, "The change journal tells when it was deleted."});
        }
        stale_folders_.erase(e.key);
    } else if (e.is_dir) {
        if (const auto key = stale_folder(e.created)) {
            e.key = *key;
            lives_told_.insert({key->a, static_cast<std::uint16_t>(key->b - first_past_life)});
        }
    }
    sink.entry(std::move(e));
}

/// The folder that stale references of files mean, when a leftover without its own reference can be no other:
/// by there being only one such folder, or only one whose files are all younger.
std::optional<EntryKey> Reader::stale_folder(const MaybeTime& created) {
    std::vector<EntryKey> possible, younger;
    for (const auto& [key, oldest] : stale_folders_) {
        possible.push_back(key);
        if (created && oldest >= created->ticks) younger.push_back(key);
    }
    const auto& choice = possible.size() == 1 ? possible : younger;
    if (choice.size() != 1) return std::nullopt;
    const auto key = choice.front();
    stale_folders_.erase(key);
    return key;
}

/// A file that journals name and nothing else does: its record has been used again.
void Reader::read_past_life(const Reference& file, const PastLives::Life& life, EntrySink& sink) {
    const auto& last = life.names[life.last];
    if (table_.is_known(file) || last.folder.record == MFT_REC_EXTEND || !lives_told_.insert(file).second)
        return;
    // An index leftover that lost its reference may be this file.
    Name as_name;
    as_name.name = last.name;
    as_name.created = life.created;
    if (life.created && remnants_told_.count(name_print(last.folder.record, as_name))) return;
    Entry e;
    e.key = life_key(file);
    e.parent = table_.parent_of(last.folder).key;
    e.origin = Origin::deleted;
    e.name = utf8_from_utf16(last.name);
    e.is_dir = life.is_dir;
    e.size = life.size;
    e.created = life.created;
    e.modified = life.modified;
    e.deleted = life.deleted;
    e.evidence.push_back({Fact::from_journal, life.source, 0,
                          "Only a journal still names it; its record has been used again."});
    for (const auto& known : life.names) {
        if (!(known == last))
            e.evidence.push_back({Fact::old_name, life.source, 0, table_.path_of(known.folder, known.name)});
    }
    sink.entry(std::move(e));
}

}  // namespace undershelf::ntfs
