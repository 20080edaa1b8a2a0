#include <fmt/format.h>

#include <algorithm>

#include "content/signature.hpp"
#include "ntfs/reader.hpp"
#include "volume/content_stream.hpp"

namespace undershelf::ntfs {

// Records without a name. Some drivers take the $FILE_NAME out of a record when they delete its file; the
// folder's index leftovers name it then. A record that nothing names is a find all the same.

namespace {

/// Where files are whose folder nothing tells.
constexpr EntryKey folder_of_nameless{~0ull, 0};

/// What a leftover without a reference and a record without a name have in common.
struct Likeness {
    std::int64_t created = 0;  ///< ticks
    std::uint64_t size = 0;    ///< bytes
    bool is_dir = false;
    std::uint64_t which = 0;  ///< index of the leftover, or number of the record
    auto key() const { return std::tuple(created, size, is_dir); }
    bool operator<(const Likeness& o) const { return key() < o.key(); }
};

/// Leaves those that are like no other.
void keep_single(std::vector<Likeness>& all) {
    std::stable_sort(all.begin(), all.end());
    std::vector<Likeness> out;
    for (std::size_t i = 0, end = 0; i < all.size(); i = end) {
        for (end = i; end < all.size() && all[end].key() == all[i].key();) ++end;
        if (end == i + 1) out.push_back(all[i]);
    }
    all = std::move(out);
}

Entry folder_for_nameless() {
    Entry e;
    e.key = folder_of_nameless;
    e.origin = Origin::deleted;
    e.name = "folder-unknown";
    e.name_certainty = NameCertainty::made_up;
    e.is_dir = true;
    e.evidence.push_back({Fact::stand_in_name, 0, 0, {}});
    return e;
}

std::uint64_t main_size(const FileInfo& info) {
    for (const auto& s : info.streams) {
        if (s.name.empty()) return s.size;
    }
    return 0;
}

}  // namespace

/// Lists a nameless record's file under a name that was found elsewhere.
void Reader::give_name(std::uint64_t record, const Name& name, const Evidence& why, EntrySink& sink) {
    for (auto& draft : table_.compose_as(record, windows_, name)) {
        draft.entry.evidence.push_back(why);
        emit(std::move(draft), sink);
    }
    nameless_.remove(record);
}

/// The name a leftover gives together with the record's reference; of several the one that was set last.
void Reader::name_by_references(EntrySink& sink) {
    for (auto& [record, names] : names_for_) {
        const auto sequence = table_.glances()[record].sequence;
        std::stable_sort(names.begin(), names.end(), [&](const Leftover& a, const Leftover& b) {
            const auto rank = [&](const Leftover& l) {
                return std::pair(l.file->sequence == sequence, ticks_of(l.name.changed));
            };
            return rank(a) > rank(b);
        });
        give_name(record, names.front().name,
                  {Fact::from_index, names.front().offset, 0,
                   "Its record has lost its name; its folder's index still has both, joined by number."},
                  sink);
        for (const auto& other : names) {
            if (other.file->sequence == names.front().file->sequence) tell_old_name(other, sink);
        }
    }
    names_for_.clear();
}

void Reader::name_by_journals(EntrySink& sink) {
    if (table_.past().all().empty()) return;
    for (auto record = nameless_.next_in(0); record < nameless_.end();
         record = nameless_.next_in(record + 1)) {
        const auto* life = table_.life_of(record);
        if (!life) continue;
        const auto& last = life->names[life->last];
        Name name;
        name.parent_record = last.folder.record;
        name.parent_sequence = last.folder.sequence;
        name.name = last.name;
        name.created = life->created;
        name.modified = life->modified;
        give_name(record, name,
                  {Fact::from_journal, life->source, 0,
                   "Its record has lost its name; a journal still has both, joined by number."},
                  sink);
    }
}

/// Leftovers that have lost the reference still have size and time of creation, to 100 ns: where only one
/// nameless record has the same, and no other such leftover, it is that file's name.
void Reader::name_by_dates(EntrySink& sink) {
    if (headless_.empty()) return;
    std::vector<Likeness> records, leftovers;
    for (auto n = nameless_.next_in(0); n < nameless_.end(); n = nameless_.next_in(n + 1)) {
        const auto info = table_.file_of(n, windows_);
        const bool is_dir = info.flags & RECORD_FLAG_DIR;
        if (info.created) records.push_back({info.created->ticks, is_dir ? 0 : main_size(info), is_dir, n});
    }
    std::unordered_set<std::uint64_t> seen;  // one name often is in several leftovers
    for (std::size_t i = 0; i < headless_.size(); ++i) {
        const auto& l = headless_[i];
        if (l.name.created && seen.insert(name_print(l.folder.record, l.name).dated).second)
            leftovers.push_back({l.name.created->ticks, l.size, l.is_dir, i});
    }
    keep_single(records);
    keep_single(leftovers);
    for (const auto& l : leftovers) {
        const auto record = std::lower_bound(records.begin(), records.end(), l);
        if (record == records.end() || record->key() != l.key()) continue;
        auto name = headless_[l.which].name;
        name.parent_record = headless_[l.which].folder.record;
        name.parent_sequence = headless_[l.which].folder.sequence;
        give_name(record->which, name,
                  {Fact::from_index, headless_[l.which].offset, 0,
                   "Its record has lost its name; a leftover of an index has the same size and time of "
                   "creation, and nothing else has."},
                  sink);
    }
}

/// `record-NUMBER`, with the extension that fits its content.
std::string Reader::made_up_name(std::uint64_t record, const std::vector<Draft>& drafts) const {
    for (const auto& d : drafts) {
        if (!d.entry.stream.empty()) continue;
        const auto first = ContentStream(source_, d.entry.pieces, d.entry.size).first(signature_bytes);
        if (const auto ext = usual_extension(first); !ext.empty())
            return fmt::format("record-{}.{}", record, ext);
    }
    return fmt::format("record-{}", record);
}

/// What nothing names is listed by its record's number, in a folder of its own. Folders are left out: they
/// are known by what lies in them, or not worth a line.
void Reader::list_nameless(EntrySink& sink, Progress& progress) {
    bool has_folder = false;
    Name nowhere;
    nowhere.parent_record = MFT_REC_ROOT;
    for (auto n = nameless_.next_in(0); n < nameless_.end(); n = nameless_.next_in(n + 1)) {
        if (progress.stopped()) return;
        if (table_.glances()[n].is_dir) continue;
        if (!has_folder) sink.entry(folder_for_nameless());
        has_folder = true;
        auto drafts = table_.compose_as(n, windows_, nowhere);
        const auto name = made_up_name(n, drafts);
        for (auto& draft : drafts) {
            draft.entry.name = name;
            draft.entry.name_certainty = NameCertainty::made_up;
            draft.entry.parent = folder_of_nameless;
            draft.entry.evidence.push_back({Fact::stand_in_name, n, 0, {}});
            emit(std::move(draft), sink);
        }
    }
}

}  // namespace undershelf::ntfs
