#include <fmt/format.h>

#include "base/text.hpp"
#include "ntfs/reader.hpp"
#include "ntfs/series_dates.hpp"

namespace undershelf::ntfs {

// Leftovers in folder indexes, and lives of records that only journals tell of.

void Reader::remnants(EntrySink& sink, Progress& progress) {
    read_leftovers(sink, progress);
    name_by_references(sink);
    name_by_journals(sink);
    name_by_dates(sink);
    date_fragments(sink);
    for (const auto& leftover : headless_) tell_leftover(leftover, sink);
    headless_.clear();
    for (const auto& [file, life] : table_.past().all()) {
        if (!progress.stopped()) read_past_life(file, life, sink);
    }
    list_nameless(sink, progress);
}

void Reader::read_leftovers(EntrySink& sink, Progress& progress) {
    progress.stage("reading index leftovers");
    const auto take = [&](Leftover&& found) { take_leftover(std::move(found), sink); };
    const auto& glances = table_.glances();
    for (std::uint64_t n = 0; n < glances.size() && !progress.stopped(); ++n) {
        if (glances[n].is_record && glances[n].is_base && glances[n].is_dir)
            indexes_.of_folder(n, windows_, sink.budget(), take);
        if (n % 1024 == 0) progress.at(n, glances.size());
    }
    progress.stage("looking for lost index blocks");
    indexes_.of_nobody(free_, progress, take);
    indexes_.of_places(blocks_, progress, take);
}

/// What a leftover is good for: a name for a record that has none, an old name of a file whose record has
/// another one, or all that is left of a file.
void Reader::take_leftover(Leftover&& leftover, EntrySink& sink) {
    if (!leftover.file) {
        headless_.push_back(std::move(leftover));
    } else if (leftover.file->record < MFT_REC_FREE) {
        return;
    } else if (!table_.is_known(*leftover.file)) {
        tell_leftover(leftover, sink);
    } else if (nameless_.has(leftover.file->record)) {
        auto& names = names_for_[leftover.file->record];
        if (names.size() < most_names) names.push_back(std::move(leftover));
    } else {
        tell_old_name(leftover, sink);
    }
}

/// Numbers of records begin anew with every format, so that a leftover of a former volume may name a record
/// of this one: a file has one birth, and was in a folder.
bool Reader::is_of_its_record(const Leftover& leftover) {
    const auto& folder = table_.glances();
    const auto above = leftover.folder.record;
    if (above < folder.size() && folder[above].is_record && !folder[above].is_dir) return false;
    if (!leftover.name.created) return true;
    const auto info = table_.file_of(leftover.file->record, windows_);
    const auto born = ticks_of(leftover.name.created);
    return (info.created && ticks_of(info.created) == born) ||
           std::any_of(info.names.begin(), info.names.end(),
                       [&](const Name& n) { return n.created && ticks_of(n.created) == born; });
}

void Reader::tell_old_name(const Leftover& leftover, EntrySink& sink) {
    const auto record = leftover.file->record;
    if (!is_of_its_record(leftover)) return;
    if (!told_.add(name_print(leftover.folder.record, leftover.name), false)) return;
    sink.evidence({record, table_.glances()[record].is_dir ? 0u : 1u},
                  {Fact::old_name, leftover.offset, 0, table_.path_of(leftover.folder, leftover.name.name)});
}

/// Names that have lost their dates get those of their series in the folder's index, where it has one.
void Reader::date_fragments(EntrySink& sink) {
    std::map<std::uint64_t, std::vector<Leftover*>> by_folder;
    for (auto& l : headless_) {
        if (!l.name.modified) by_folder[l.folder.record].push_back(&l);
    }
    for (const auto& [number, undated] : by_folder) {
        const auto folder = number;
        SeriesDates dates;
        indexes_.names_of_folder(folder, windows_, sink.budget(), [&](Leftover&& l) {
            if (l.file && l.folder.record == folder) dates.add(l.name.name, l.name.modified);
        });
        for (auto* l : undated) {
            const auto argued = dates.date_of(l->name.name);
            if (!argued) continue;
            l->name.modified = argued->modified;
            l->date_argued = fmt::format(
                "Its date is argued: {} names of the same series in the folder were written then.",
                argued->names);
        }
    }
}

/// A name of which nothing else is left.
void Reader::tell_leftover(const Leftover& leftover, EntrySink& sink) {
    const auto& name = leftover.name;
    if (!told_.add(name_print(leftover.folder.record, name), name.created.has_value())) return;
    Entry e;
    e.key = {leftover.offset, leftover_life};
    e.parent = table_.parent_of(leftover.folder).key;
    e.origin = Origin::deleted;
    e.name = utf8_from_utf16(name.name);
    e.is_dir = leftover.is_dir;
    e.size = leftover.size;
    e.created = name.created;
    e.modified = name.modified;
    if (leftover.file) {
        e.evidence.push_back({Fact::from_index, leftover.offset, 0,
                              "Only its folder's index still names it; its record has been used again."});
        const auto [told, fresh] = lives_told_.emplace(*leftover.file, name.created);
        if (!fresh) {
            // Another name of it: which of the two came later is not told.
            if (name.created && told->second == name.created)
                sink.evidence(life_key(*leftover.file),
                              {Fact::old_name, leftover.offset, old_name_bit::order_unknown,
                               table_.path_of(leftover.folder, name.name)});
            return;
        }
        e.key = life_key(*leftover.file);
        if (const auto* life = table_.past().find(*leftover.file); life && life->deleted) {
            e.deleted = life->deleted;
            e.evidence.push_back(
                {Fact::from_journal, life->source, 0, "The change journal tells when it was deleted."});
        }
        stale_folders_.erase(e.key);
    } else {
        e.name_certainty = NameCertainty::fragment;
        e.evidence.push_back(
            {Fact::from_index, leftover.offset, 0,
             "Only a part of an index entry still names it: which file it was is not told."});
        if (!leftover.date_argued.empty())
            e.evidence.push_back({Fact::date_argued, 0, 0, leftover.date_argued});
        if (const auto key = e.is_dir ? stale_folder(e.created) : std::nullopt) {
            e.key = *key;
            lives_told_.emplace(Reference{key->a, static_cast<std::uint16_t>(key->b - first_past_life)},
                                e.created);
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
    if (table_.is_known(file) || last.folder.record == MFT_REC_EXTEND ||
        !lives_told_.emplace(file, std::nullopt).second)
        return;
    // An index leftover that lost its reference may be this file.
    Name as_name;
    as_name.name = last.name;
    as_name.created = life.created;
    if (life.created && told_.has_other(name_print(last.folder.record, as_name))) return;
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
