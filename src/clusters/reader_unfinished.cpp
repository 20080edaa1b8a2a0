// Lost folders that go on somewhere. Where a folder's last cluster names a folder, its writer went on after
// all that is in that one; so that where it goes on can be told only when the others are known.

#include <algorithm>
#include <map>
#include <utility>

#include "clusters/reader.hpp"

namespace undershelf::clusters {

bool Reader::is_unfinished(const Unfinished& folder) const {
    return cluster_total(folder.runs) < std::min(folder.size.most, grid_.clusters_for(bound::folder_bytes)) &&
           !lost_->folders.edge(folder.runs.back().end() - 1).ends;
}

/// Says of folders that went on where they are after all.
void Reader::hand_over_grown(EntrySink& sink) {
    for (const auto& folder : lost_->unfinished) {
        if (folder.grown && !folder.runs.empty()) sink.lay_anew(folder.key, {grid_.ranges(folder.runs), {}});
    }
    lost_->unfinished.clear();
}

void Reader::keep_unfinished(Unfinished&& folder) {
    lost_->fill_again |= folder.size.recorded;
    lost_->untried.push_back(lost_->unfinished.size());
    lost_->unfinished.push_back(std::move(folder));
}

/// Those that are new, and those that wait for a folder of which more is known now.
std::vector<std::size_t> Reader::worth_trying() {
    auto out = std::exchange(lost_->untried, {});
    for (const auto start : lost_->folders.take_changed()) {
        const auto [from, to] = lost_->waits_for.equal_range(start);
        for (auto it = from; it != to; ++it) out.push_back(it->second);
        lost_->waits_for.erase(from, to);
    }
    return out;
}

/// Reads what comes after folders that were not finished. False when none goes on any further.
bool Reader::go_on_with_unfinished(EntrySink& sink, Progress& progress) {
    // Each folder is tried when it is met, and as often as that for which it waits goes on; of a hostile
    // volume all wait for one another.
    constexpr std::uint64_t most_tries = 4;
    bool any = false;
    for (const auto i : worth_trying()) {
        auto& folder = lost_->unfinished[i];
        if (folder.runs.empty() || progress.stopped() ||
            lost_->tries >= most_tries * lost_->unfinished.size() + 1024)
            continue;
        ++lost_->tries;
        const auto found = lost_->folders.goes_on_from(folder.runs.back().end() - 1, folder.size.how,
                                                       lost_->busy ? &*lost_->busy : nullptr);
        if (found.next) {
            go_on(i, *found.next, sink, progress);
            any = true;
        } else if (found.waits_for) {
            lost_->waits_for.emplace(found.waits_for, i);
        }
    }
    return any || fill_by_size(sink, progress);
}

/// A folder's entry records its size. Where clusters are missing by that, it gets later ones that no other
/// folder has, if they are not older and no other folder may have them as well.
bool Reader::fill_by_size(EntrySink& sink, Progress& progress) {
    if (!std::exchange(lost_->fill_again, false)) return false;
    std::map<Cluster, std::vector<std::size_t>> wanted;
    for (std::size_t i = 0; i < lost_->unfinished.size() && !progress.stopped(); ++i) {
        const auto& folder = lost_->unfinished[i];
        if (folder.runs.empty() || !folder.size.recorded) continue;
        if (const auto next = lost_->folders.may_go_on_from(folder.runs.back().end() - 1))
            wanted[*next].push_back(i);
    }
    bool any = false;
    for (const auto& [next, folders] : wanted) {
        if (folders.size() > 1 || !lost_->folders.is_part(next) || progress.stopped()) continue;
        go_on(folders.front(), next, sink, progress);
        any = true;
    }
    return any;
}

/// Follows an unfinished folder from `next` on, and reads what that holds.
void Reader::go_on(std::size_t unfinished, Cluster next, EntrySink& sink, Progress& progress) {
    auto folder = std::move(lost_->unfinished[unfinished]);
    lost_->unfinished[unfinished].runs.clear();
    const auto last = folder.runs.back().end() - 1;
    const auto first = folder.runs.front().first;
    const auto most = std::min(folder.size.most, grid_.clusters_for(bound::folder_bytes));
    if (lost_->busy) lost_->folders.look_along(next, *lost_->busy);
    const auto more = lost_->folders.follow(next, most - cluster_total(folder.runs), folder.size.how);
    for (const auto& r : more) append_run(folder.runs, r);
    lost_->folders.ends(first, more.back().end() - 1);
    Folder rest;
    rest.key = folder.key;
    rest.live = false;
    // An entry that lies in both is read with what comes now.
    if (const auto open = lost_->folders.edge(last).left_open) {
        auto& before = folders_[folder.folder].ranges;
        if (!before.empty() && before.back().end() == grid_.range({last, 1}).end()) {
            before.back().length -= open;
            rest.ranges.push_back({before.back().end(), open});
        }
    }
    const auto fresh = not_followed(more);
    for (const auto& r : fresh) lost_->followed.add(r);
    for (const auto& r : folder_ranges(fresh)) rest.ranges.push_back(r);
    const auto place = folders_.size();
    folders_.push_back(std::move(rest));
    folder.folder = place;
    folder.grown = true;
    if (is_unfinished(folder)) {
        keep_unfinished(std::move(folder));
    } else {
        sink.lay_anew(folder.key, {grid_.ranges(folder.runs), {}});
    }
    read_lost_from(place, false, sink, progress);
}

}  // namespace undershelf::clusters
