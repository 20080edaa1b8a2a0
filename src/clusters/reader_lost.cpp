// The part of the walk that is about deleted entries and folders; the live tree has been read before.

#include <fmt/format.h>

#include <algorithm>

#include "clusters/reader.hpp"

namespace undershelf::clusters {

void Reader::read_lost_from(std::size_t first, bool leftovers, EntrySink& sink, Progress& progress) {
    // Deleted folders found on the way are appended, and read in their turn.
    for (std::size_t i = first; i < folders_.size() && !progress.stopped(); ++i) {
        const auto folder = folders_[i];
        if (leftovers ? folder.leftovers : folder.lost)
            read_lost(folder, folder.bytes ? *folder.bytes : FolderBytes(source_, folder.ranges), leftovers,
                      sink);
        if (leftovers) folders_[i].bytes.reset();
        progress.at(i + 1, folders_.size());
    }
}

std::vector<Run> Reader::guess(Entry& e, Cluster start, std::uint64_t size,
                               const std::optional<Habit>& habit) {
    const auto wanted = grid_.clusters_for(size);
    const auto& layout = layout_of(e.origin);
    const auto guess = layout.guess(start, wanted, written(e),
                                    std::max<std::uint64_t>(1, budget_->left(Budget::Cost::guess)));
    budget_->take(Budget::Cost::guess, guess.runs.size() + guess.cut);
    if (wanted == 1) {
        e.evidence.push_back({Fact::single_cluster, 0, 0, {}});
    } else {
        const bool stepped = guess.runs.size() > 1;
        e.evidence.push_back({stepped ? Fact::next_free : Fact::contiguous, guess.runs.size(), 0, {}});
        const auto all = habit_.share(wanted);
        const auto prior = stepped ? Habit{Fact::step_prior, stepping_as_guessed_, stepping_}
                                   : habit.value_or(Habit{Fact::layout_prior, all.contiguous, all.files});
        e.evidence.push_back({prior.fact, prior.as_guessed, prior.files, {}});
    }
    if (guess.cut)
        e.evidence.push_back({Fact::bad_metadata, 0, 0,
                              "the volume's deleted entries ask for many times more than it holds; where the "
                              "rest of this one lay was not worked out"});
    lost_->steps.add_guessed(e, layout, start, written(e));
    if (reused(start)) e.evidence.push_back({Fact::start_in_use, start, 0, {}});
    return guess.runs;
}

/// Once all lost files are known, those that were written around others are laid out so.
void Reader::step_over_lost(EntrySink& sink, Progress& progress) {
    if (!lost_) return;
    lost_->steps.settle(sink.budget(), progress, [&](LostSteps::Found&& found) {
        sink.lay_anew(found.key, {grid_.ranges(found.runs),
                                  {{Fact::next_free, found.runs.size(), 0, {}},
                                   {Fact::steps_over_lost, found.stepped, 0, {}},
                                   {Fact::step_prior, stepping_as_guessed_, stepping_, {}}}});
    });
}

void Reader::place_empty(Entry& e) const {
    // Drivers write the slot of a new file before its content; one deleted in between looks empty.
    e.layout = Layout::known;
    e.evidence.push_back({Fact::empty_slot, empty_live_, live_count_, {}});
}

/// What of `runs` no lost folder has that is read already, and no live entry.
std::vector<Run> Reader::not_followed(const std::vector<Run>& runs) const {
    std::vector<Run> out;
    for (const auto& r : runs) {
        const std::uint64_t end = r.end();
        for (std::uint64_t c = r.first; c < end;) {
            c = std::max(taken_.next_out(c, end), lost_->followed.next_out(c, end));
            if (taken_.has(c) || lost_->followed.has(c)) continue;
            const auto to = lost_->followed.next_in(c, taken_.next_in(c, end));
            if (c < to) append_run(out, {static_cast<Cluster>(c), static_cast<std::uint32_t>(to - c)});
            c = to;
        }
    }
    return out;
}

bool Reader::found_lost_folder(Entry& e, Cluster start, std::vector<Run> runs, const FolderSize& size) {
    if (!folder_starts_.emplace(start, e.key).second) {
        e.evidence.push_back({Fact::folder_lost_self, start, 0, {}});
        return false;
    }
    lost_->folders.name(start);
    if (runs.empty()) runs = folder_chain(start);
    const bool followed = runs.empty();
    if (followed) {
        if (lost_->busy) lost_->folders.look_along(start, *lost_->busy);
        runs = lost_->folders.follow(start, std::min(size.most, grid_.clusters_for(bound::folder_bytes)),
                                     size.how);
    } else {
        lost_->folders.take(runs);
    }
    lost_->folders.ends(start, runs.back().end() - 1);
    e.claims = grid_.ranges(runs);
    e.layout = Layout::known;
    note_lost(e, runs);
    const auto all = runs;
    runs = not_followed(runs);
    for (const auto& r : runs) lost_->followed.add(r);
    Folder folder;
    folder.key = e.key;
    folder.live = false;
    folder.ranges = folder_ranges(runs);
    if (!folder.ranges.empty()) {
        folders_.push_back(std::move(folder));
        Unfinished goes_on{e.key, all, size, folders_.size() - 1};
        if (followed && is_unfinished(goes_on)) keep_unfinished(std::move(goes_on));
    }
    return true;
}

/// Folders whose own entry is gone: where their clusters still say who their parent was, they hang there.
void Reader::read_ownerless(EntrySink& sink, Progress& progress) {
    while (!progress.stopped()) {
        if (go_on_with_unfinished(sink, progress)) continue;
        const auto head = lost_->folders.take_any();
        if (!head) break;
        const auto before = folders_.size();
        stand_in(*head, sink);
        read_lost_from(before, false, sink, progress);
    }
    hand_over_grown(sink);
}

Entry Reader::stand_in_entry(Cluster cluster) const {
    Entry e;
    e.key = {grid_.offset(cluster), 2};
    e.origin = origin_by_mark(false);
    e.is_dir = true;
    e.name = fmt::format("folder-{}", cluster);
    e.name_certainty = NameCertainty::made_up;
    e.evidence.push_back({Fact::stand_in_name, cluster, 0, {}});
    return e;
}

void Reader::stand_in(const LostFolders::Head& head, EntrySink& sink) {
    auto e = stand_in_entry(head.cluster);
    if (!found_lost_folder(e, head.cluster)) return;
    if (const auto it = folder_starts_.find(head.parent); it != folder_starts_.end()) {
        e.parent = it->second;
    } else if (is_former() && grid_.holds(head.parent)) {
        e.parent = former_folder(head.parent, sink).key;
    }
    sink.entry(std::move(e));
}

Reader::Folder Reader::former_folder(Cluster cluster, EntrySink& sink) {
    Folder folder;
    folder.live = false;
    if (const auto it = overwritten_.find(cluster); it != overwritten_.end()) {
        folder.key = it->second;
    } else {
        auto e = stand_in_entry(cluster);
        folder.key = e.key;
        overwritten_.emplace(cluster, e.key);
        sink.entry(std::move(e));
    }
    return folder;
}

void Reader::emit_fragment(const std::string& name, std::uint64_t at, const Folder& folder, EntrySink& sink) {
    Entry e;
    e.key = {at, 1};
    e.parent = folder.key;
    e.origin = Origin::deleted;
    e.name = name;
    e.name_certainty = NameCertainty::fragment;
    e.evidence.push_back({Fact::name_fragment, 0, 0, {}});
    sink.entry(std::move(e));
}

}  // namespace undershelf::clusters
