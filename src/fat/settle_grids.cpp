#include <fmt/format.h>

#include <algorithm>

#include "base/text.hpp"
#include "fat/settler.hpp"
#include "settling/grid_vote.hpp"

namespace undershelf::fat {

namespace {
constexpr std::uint32_t largest_cluster = 256 << 10;
constexpr std::size_t most_volumes = 32, most_votes = 8, most_single = 64;
/// A few folders by themselves agree on many grids; so many need nothing else to speak for them.
constexpr std::size_t votes_that_prove = 8;
}  // namespace

/// A format of the same kind and size leaves old folders and new ones in one grid: the old ones were made
/// before anything that the volume's tree names now.
void Settler::try_present_grid(const PresentLife& life) {
    const auto& v = life.volume;
    if (v.family != "FAT" || v.state != VolumeState::present || v.cluster_size == 0) return;
    auto former = grid_at(v.grid_start, v.cluster_size);
    auto folders = take_supporters(former);
    std::erase_if(folders, [&](const FolderHead& f) {
        const auto made = made_at(s_.source, f, s_.options);
        return made == 0 || made >= life.oldest;
    });
    if (folders.empty()) return;
    Candidate c;
    c.former = std::move(former);
    c.former.end_date = life.oldest;
    c.found_by = "folders older than all that the present volume names";
    c.votes.push_back(fmt::format("It had the same clusters as the present volume {}.", v.number));
    c.supporters = std::move(folders);
    found_.push_back(std::move(c));
}

/// A boot sector that describes no present volume: it counts when folders are where it says.
void Settler::try_head(std::uint64_t place) {
    if (s_.taken.contains(place) || found_.size() >= most_volumes) return;
    const auto bytes = s_.source.read_vector({place, 512});
    const auto g = parse_boot_sector(bytes);
    if (!g) return;
    for (const auto back : {std::uint64_t{0}, g->backup_offset}) {
        if (back > place) continue;
        Candidate c;
        c.former.offset = place - back;
        c.former.geometry = *g;
        const auto start = c.former.offset + g->data_offset;
        const bool present = std::any_of(s_.present.begin(), s_.present.end(), [&](const PresentLife& life) {
            return life.volume.grid_start == start && life.volume.cluster_size == g->cluster_size;
        });
        if (present) return;
        const auto folders = supporters_of(c.former);
        c.evidence = hold_against(c.former, folders);
        if (folders.empty() || (folders.size() < votes_that_prove && !c.evidence.bears_out())) continue;
        c.found_by = "old boot sector";
        c.width_known = true;
        c.votes.push_back(
            fmt::format("A boot sector that describes it is left at offset {}.", grouped(place)));
        c.supporters = take_supporters(c.former);
        found_.push_back(std::move(c));
        return;
    }
}

void Settler::vote() {
    while (found_.size() < most_volumes && !progress_.stopped()) {
        std::vector<settling::Sighting> sightings;
        sightings.reserve(pool_.size());
        for (const auto& f : pool_) {
            if (f.own >= 2) sightings.push_back({f.place, f.own - 2});
        }
        bool any = false;
        for (const auto& vote : settling::vote_for_grids(sightings, largest_cluster, most_votes)) {
            Candidate c;
            c.former = grid_at(vote.start, vote.unit_size);
            const auto folders = supporters_of(c.former);
            c.evidence = hold_against(c.former, folders);
            const bool clear = vote.votes >= votes_that_prove && vote.votes > 2 * vote.runner_up;
            if (folders.size() < 2 || (!clear && !c.evidence.bears_out())) continue;
            c.found_by = "folders that agree on its geometry";
            c.supporters = take_supporters(c.former);
            found_.push_back(std::move(c));
            any = true;
            break;
        }
        if (!any) break;
    }
    if (pool_.size() > most_single) return;
    // A folder by itself fits one grid of each cluster size: what it names may tell which.
    for (const auto& folder : std::vector<FolderHead>(pool_)) try_single(folder);
}

void Settler::try_single(const FolderHead& folder) {
    if (std::none_of(pool_.begin(), pool_.end(),
                     [&](const FolderHead& f) { return f.place == folder.place; }))
        return;
    std::optional<Candidate> best;
    bool clear = false;
    for (std::uint64_t size = settling::smallest_unit; size <= largest_cluster; size *= 2) {
        const auto before = (folder.own - 2) * size;
        if (before > folder.place) break;
        Candidate c;
        c.former = grid_at(folder.place - before, static_cast<std::uint32_t>(size));
        c.evidence = hold_against(c.former, {folder});
        if (!c.evidence.bears_out()) continue;
        clear = !best || c.evidence.weight() != best->evidence.weight();
        if (!best || c.evidence.weight() > best->evidence.weight()) best = std::move(c);
    }
    if (!best || !clear || found_.size() >= most_volumes) return;
    best->found_by = "folder and the files it names";
    best->supporters = take_supporters(best->former);
    found_.push_back(std::move(*best));
}

}  // namespace undershelf::fat
