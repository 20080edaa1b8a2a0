// Lost folders that go on somewhere. Where a folder's last cluster names a folder, its writer went on after
// all that is in that one; so that where it goes on can be told only when the others are known.

#include <algorithm>

#include "clusters/reader.hpp"

namespace undershelf::clusters {

void Reader::note_unfinished(const EntryKey& key, const std::vector<Run>& runs, const FolderSize& size) {
    if (cluster_total(runs) < std::min(size.most, grid_.clusters_for(bound::folder_bytes)) &&
        !ends_in(runs.back().end() - 1))
        unfinished_.push_back({key, runs, size, folders_.size() - 1});
}

/// Reads what comes after folders that were not finished. False when none goes on any further.
bool Reader::go_on_with_unfinished(EntrySink& sink, Progress& progress) {
    bool any = false;
    for (std::size_t i = 0; i < unfinished_.size() && !progress.stopped(); ++i) {
        auto& folder = unfinished_[i];
        const auto next = lost_folders_->goes_on_from(folder.runs.back().end() - 1, folder.size.how,
                                                      in_the_way_ ? &*in_the_way_ : nullptr);
        if (!next) continue;
        go_on(i, *next, sink, progress);
        any = true;
    }
    std::erase_if(unfinished_, [](const Unfinished& f) { return f.runs.empty(); });
    return any || fill_by_size(sink, progress);
}

/// The size that a folder's entry records says that clusters are missing: those that are nobody's, after it
/// and not older, are its own if they can be no other's.
bool Reader::fill_by_size(EntrySink& sink, Progress& progress) {
    std::map<Cluster, std::vector<std::size_t>> wanted;
    for (std::size_t i = 0; i < unfinished_.size(); ++i) {
        const auto& folder = unfinished_[i];
        if (!folder.size.recorded) continue;
        if (const auto next = lost_folders_->may_go_on_from(folder.runs.back().end() - 1))
            wanted[*next].push_back(i);
    }
    for (const auto& [next, folders] : wanted) {
        if (folders.size() > 1) continue;
        go_on(folders.front(), next, sink, progress);
        std::erase_if(unfinished_, [](const Unfinished& f) { return f.runs.empty(); });
        return true;
    }
    return false;
}

/// Follows an unfinished folder from `next` on, and reads what that holds.
void Reader::go_on(std::size_t unfinished, Cluster next, EntrySink& sink, Progress& progress) {
    auto folder = std::move(unfinished_[unfinished]);
    unfinished_[unfinished].runs.clear();
    const auto last = folder.runs.back().end() - 1;
    const auto first = folder.runs.front().first;
    const auto most = std::min(folder.size.most, grid_.clusters_for(bound::folder_bytes));
    if (in_the_way_) lost_folders_->look_along(next, *in_the_way_);
    const auto more = lost_folders_->follow(next, most - cluster_total(folder.runs), folder.size.how);
    for (const auto& r : more) append_run(folder.runs, r);
    lost_folders_->ends(first, more.back().end() - 1);
    sink.lay_anew(folder.key, {grid_.ranges(folder.runs), {}});
    Folder rest;
    rest.key = folder.key;
    rest.live = false;
    // An entry that lies in both is read with what comes now.
    if (const auto open = left_open(last)) {
        auto& before = folders_[folder.folder].ranges;
        if (!before.empty() && before.back().end() == grid_.range({last, 1}).end()) {
            before.back().length -= open;
            rest.ranges.push_back({before.back().end(), open});
        }
    }
    const auto fresh = not_followed(more);
    for (const auto& r : fresh) followed_.add(r);
    for (const auto& r : folder_ranges(fresh)) rest.ranges.push_back(r);
    const auto place = folders_.size();
    folders_.push_back(std::move(rest));
    note_unfinished(folder.key, folder.runs, folder.size);
    read_lost_from(place, false, sink, progress);
}

}  // namespace undershelf::clusters
