// The part of the reader that works out what was deleted; the live tree has been read before.

#include <fmt/format.h>

#include <algorithm>

#include "fat/reader.hpp"

namespace undershelf::fat {

void Reader::read_lost(EntrySink& sink, Progress& progress, std::size_t from, bool behind_end) {
    // Deleted folders found on the way are appended, and read in their turn.
    for (std::size_t i = from; i < folders_.size() && !progress.stopped(); ++i) {
        const auto folder = folders_[i];
        const FolderBytes bytes(source_, folder.ranges);
        const auto listing = parse_folder(bytes);
        for (const auto& slots : listing.entries) {
            const bool lost = slots.erased || slots.after_end || !folder.live;
            if (lost && slots.after_end == behind_end && !(slots.entry.DIR_Attr & ATTR_VOLUME_ID))
                read_lost_entry(slots, folder, listing, sink);
        }
        if (behind_end) {
            for (const auto& orphan : listing.orphans) read_orphan(orphan, folder, sink);
        }
        progress.at(i + 1, folders_.size());
    }
}

void Reader::read_lost_entry(const Slots& slots, const Folder& folder, const Listing& siblings,
                             EntrySink& sink) {
    // A slot in a live folder was an entry once; what stands behind an end mark may be anything.
    if (!is_plausible(slots.entry, slots.erased)) return;
    auto e = basic_entry(slots, folder);
    e.origin = Origin::deleted;
    name_entry(e, slots, &siblings);
    if (slots.after_end) e.evidence.push_back({Fact::after_end_mark, 0, 0, {}});
    // A rename or move leaves a slot, too: the file itself is still told of elsewhere.
    for (const auto candidate : starts_.candidates(slots.entry)) {
        if (const auto* live = old_slot_of(e, candidate)) {
            sink.evidence(live->key, {Fact::old_name, slots.source_offset, 0, e.name});
            return;
        }
    }
    if (e.is_dir) {
        place_lost_folder(e, slots.entry);
    } else {
        place_lost_file(e, slots.entry);
        if (const auto first = lost_before(e, slots.entry)) {
            sink.evidence(*first, {Fact::old_name, slots.source_offset, 1, e.name});
            return;
        }
    }
    sink.entry(std::move(e));
}

/// The entry of the same lost file that came before: two slots with one start, size and times are one file
/// that was renamed or moved before it was deleted.
std::optional<EntryKey> Reader::lost_before(const Entry& e, const DirEntry& raw) {
    if (e.size == 0 || e.claims.empty() || (!e.created && !e.modified)) return std::nullopt;
    const LostFile file{start_cluster(raw, geometry_.width), raw.DIR_FileSize.value(), ticks_of(e.modified),
                        ticks_of(e.created)};
    const auto [it, fresh] = lost_files_.emplace(file, e.key);
    return fresh ? std::nullopt : std::optional(it->second);
}

const Reader::LiveFile* Reader::old_slot_of(const Entry& e, Cluster start) const {
    if (!geometry_.holds(start)) return nullptr;
    auto it = std::lower_bound(live_files_.begin(), live_files_.end(), start,
                               [](const LiveFile& f, Cluster c) { return f.start < c; });
    for (; it != live_files_.end() && it->start == start; ++it) {
        if (it->is_dir != e.is_dir) continue;
        const bool same_birth = it->created != 0 && it->created == ticks_of(e.created);
        const bool same_state = it->size == e.size && it->modified == ticks_of(e.modified);
        if (same_birth || (same_state && !e.is_dir)) return &*it;
    }
    return nullptr;
}

void Reader::place_lost_file(Entry& e, const DirEntry& raw) const {
    if (e.size == 0) {
        // Drivers write the slot of a new file before its content; one deleted in between looks empty.
        e.layout = Layout::known;
        e.evidence.push_back({Fact::empty_slot, empty_live_, live_count_, {}});
        return;
    }
    const auto argued = starts_.find_file(raw, e);
    const auto start = argued.cluster;
    if (start == 0) {
        report_bad_start(e, raw);
        return;
    }
    if (argued.rebuilt || argued.rivals > 1)
        e.evidence.push_back({Fact::high_word_argued, start, argued.rivals, {}});
    const auto wanted = clusters_for(e.size);
    const auto guess = lost_layout_->guess(start, wanted, written(e));
    e.claims = source_ranges(guess.runs);
    e.layout = wanted == 1 ? Layout::known : Layout::assumed;
    e.pieces = pieces_in(e.claims, e.size, wanted == 1);
    if (wanted == 1) {
        e.evidence.push_back({Fact::single_cluster, 0, 0, {}});
    } else {
        e.evidence.push_back({guess.stepped ? Fact::next_free : Fact::contiguous, guess.runs.size(), 0, {}});
        const auto share = habit_.share(wanted);
        e.evidence.push_back({Fact::layout_prior, share.contiguous, share.files, {}});
    }
    if (table_.in_use(start)) e.evidence.push_back({Fact::start_in_use, start, 0, {}});
}

bool Reader::is_own_folder(Cluster start, const DirEntry& raw) const {
    const auto range = source_range({start, 1});
    const auto head = source_.read_vector({range.offset, 2 * slot_size});
    if (!begins_with_dots(head)) return false;
    const auto dot = *load<DirEntry>(head);
    if (start_cluster(dot, geometry_.width) != start) return false;
    // A younger folder in the same cluster has a '.' entry of its own age.
    return raw.DIR_CrtDate.value() == 0 || dot.DIR_CrtDate.value() == 0 ||
           (raw.DIR_CrtDate.value() == dot.DIR_CrtDate.value() &&
            raw.DIR_CrtTime.value() == dot.DIR_CrtTime.value());
}

void Reader::report_bad_start(Entry& e, const DirEntry& raw) const {
    const auto start = start_cluster(raw, geometry_.width);
    e.evidence.push_back({start ? Fact::start_outside : Fact::no_start, start, 0, {}});
}

void Reader::place_lost_folder(Entry& e, const DirEntry& raw) {
    const auto candidates = starts_.candidates(raw);
    const auto own = std::find_if(candidates.begin(), candidates.end(),
                                  [&](Cluster c) { return !table_.in_use(c) && is_own_folder(c, raw); });
    if (candidates.empty()) {
        report_bad_start(e, raw);
        return;
    }
    if (own == candidates.end() || !folder_starts_.emplace(*own, e.key).second) {
        e.evidence.push_back({Fact::folder_lost_self, candidates.front(), 0, {}});
        return;
    }
    const auto start = *own;
    if (start != start_cluster(raw, geometry_.width))
        e.evidence.push_back({Fact::high_word_argued, start, 1, {}});
    e.claims = source_ranges(lost_folders_->follow(start, most_folder_clusters()));
    e.layout = Layout::known;
    folders_.push_back({e.key, e.claims, false});
}

/// Folders whose own entry is gone: their clusters still say who their parent was.
void Reader::read_ownerless_folders(EntrySink& sink, Progress& progress) {
    while (!progress.stopped()) {
        const auto before = folders_.size();
        if (const auto head = lost_folders_->take_head()) {
            stand_in(head->cluster, head->parent, sink);
        } else if (const auto tail = lost_folders_->take_tail()) {
            stand_in(*tail, 0, sink);
        } else {
            return;
        }
        read_lost(sink, progress, before, false);
    }
}

void Reader::stand_in(Cluster first, Cluster parent, EntrySink& sink) {
    Entry e;
    e.claims = source_ranges(lost_folders_->follow(first, most_folder_clusters()));
    e.key = {e.claims.front().offset, 2};
    if (!folder_starts_.emplace(first, e.key).second) return;
    if (const auto it = folder_starts_.find(parent); it != folder_starts_.end()) e.parent = it->second;
    e.origin = Origin::deleted;
    e.is_dir = true;
    e.layout = Layout::known;
    e.name = fmt::format("folder-{}", first);
    e.name_certainty = NameCertainty::made_up;
    e.evidence.push_back({Fact::stand_in_name, first, 0, {}});
    folders_.push_back({e.key, e.claims, false});
    sink.entry(std::move(e));
}

void Reader::read_orphan(const Orphan& orphan, const Folder& folder, EntrySink& sink) const {
    Entry e;
    e.key = {orphan.source_offset, 1};
    e.parent = folder.key;
    e.origin = Origin::deleted;
    e.name = utf8_from_utf16(orphan.name);
    e.name_certainty = NameCertainty::fragment;
    e.evidence.push_back({Fact::name_fragment, 0, 0, {}});
    sink.entry(std::move(e));
}

}  // namespace undershelf::fat
