#include "clusters/lost_folders.hpp"

#include <algorithm>

#include "clusters/folder_bytes.hpp"
#include "clusters/name_series.hpp"
#include "volume/budget.hpp"

namespace undershelf::clusters {

namespace {
constexpr std::uint64_t block = 64 << 10;
/// A small card is searched whole, of a big volume the neighbourhood of what is known first.
constexpr std::uint64_t blocks_around = 4;
/// Later clusters further away than this many candidates are not considered, but for where the writer was.
constexpr int most_candidates = 64;
/// Where a folder's writer was: so many clusters are looked at.
constexpr std::uint64_t clusters_there = 16;
/// Later clusters that one may be tied to for certain, wherever they are, of all folders together.
constexpr std::size_t most_far_ties = 1 << 18;
/// Clusters of which it is kept in memory what their beginnings and ends tell.
constexpr std::size_t most_edges = 1 << 18;
}  // namespace

LostFolders::LostFolders(const Source& source, const Grid& grid, const FolderSigns& signs, Search search,
                         Progress& progress)
    : source_(source), grid_(grid), signs_(signs) {
    const ByteRange data{grid.data_offset, std::uint64_t{grid.within(source.size())} * grid.cluster_size};
    if (data.empty()) return;
    auto& seen = search.busy;
    for (const auto c : search.found) {
        if (!grid.holds(c) || grid.offset(c) >= data.end() || seen.has(c)) continue;
        look_at(c);
        seen.add(c);
    }
    std::vector<ByteRange> near;
    for (const auto at : search.known) {
        const auto from = at / block > blocks_around ? (at / block - blocks_around) * block : 0;
        near.push_back({from, (2 * blocks_around + 1) * block});
    }
    std::vector<ByteRange> order = RangeSet(std::move(near)).ranges();
    order.push_back(data);
    const RangeSet holding(source.data_ranges());
    auto budget = search.bytes;
    for (const auto& wish : order) {
        const auto inside = overlap(wish, data);
        if (!inside) continue;
        for (const auto& part : holding.within(*inside)) {
            // Whole clusters only, and each only once.
            const auto last = 2 + (part.end() - data.offset + grid.cluster_size - 1) / grid.cluster_size;
            auto c = seen.next_out(2 + (part.offset - data.offset) / grid.cluster_size);
            for (; c < last && grid.holds(c) && !progress.stopped(); c = seen.next_out(c + 1)) {
                seen_all_ = budget > 0;
                if (!seen_all_) break;
                look_at(static_cast<Cluster>(c));
                seen.add(c);
                budget -= std::min<std::uint64_t>({budget, grid.cluster_size, block});
                if (c % 1024 == 0) progress.at((c - 2) * grid.cluster_size, data.length);
            }
        }
    }
    note_names();
}

LostFolders::LostFolders(const Source& source, const Grid& grid, const FolderSigns& signs,
                         const std::vector<Cluster>& found, Progress& progress)
    : source_(source), grid_(grid), signs_(signs) {
    for (std::size_t i = 0; i < found.size() && !progress.stopped(); ++i) {
        if (grid.holds(found[i])) look_at(found[i]);
        if (i % 1024 == 0) progress.at(i, found.size());
    }
    note_names();
}

/// A cluster that an entry names as a folder's start is that folder's.
void LostFolders::note_names() {
    for (const auto part : parts_) {
        for (const auto start : signs_.folders_named_in(part)) named_.insert(start);
    }
}

void LostFolders::look_along(Cluster first, const ClusterSet& busy) {
    constexpr int most_behind = 128;
    constexpr std::uint64_t cost = 512;  // a sector each
    const auto most =
        std::max<std::uint64_t>(most_behind, grid_.count * std::uint64_t{grid_.cluster_size} / 200 / cost);
    const auto end = grid_.within(source_.size()) + std::uint64_t{2};
    std::set<Cluster> passed;  // clusters of a hostile volume may go on in a circle
    std::optional<Cluster> last = first;
    while (last && passed.insert(*last).second && looked_along_ < most && !edge(*last).ends) {
        look_from(writer_after(*last).at, busy);
        auto next = next_of(*last, How::likely);
        if (next) {
            last = next;
            continue;
        }
        looked_along_ += clusters_there;
        int behind = 0;
        for (auto c = busy.next_out(*last + std::uint64_t{1});
             c < end && grid_.holds(c) && behind < most_behind && !next; c = busy.next_out(c + 1)) {
            const auto here = static_cast<Cluster>(c);
            look_at(here);
            ++behind;
            ++looked_along_;
            if (parts_.count(here) && goes_on(*last, here, How::likely, 0)) next = here;
        }
        last = next;
    }
}

/// Looks at a few clusters where a folder's writer was.
void LostFolders::look_from(Cluster from, const ClusterSet& busy) {
    if (from == 0) return;
    for (auto c = busy.next_out(from); c < from + clusters_there && grid_.holds(c) &&
                                       grid_.range({static_cast<Cluster>(c), 1}).end() <= source_.size();
         c = busy.next_out(c + 1)) {
        if (!parts_.count(static_cast<Cluster>(c))) look_at(static_cast<Cluster>(c));
    }
}

void LostFolders::look_at(Cluster cluster) {
    const auto first = source_.read_vector({grid_.offset(cluster), 2 * FolderBytes::slot_size});
    // Most free clusters are empty, and no folder begins with an empty slot.
    if (first[0] == 0) return;
    const auto look = signs_.look_at(cluster, first);
    using Part = FolderSigns::Part;
    if (look.part == Part::head) heads_[cluster] = look.parent;
    if (look.part == Part::any || look.part == Part::tail || look.part == Part::rest)
        parts_.insert(parts_.end(), cluster);
    if (look.part == Part::any) starts_.insert(starts_.end(), cluster);
    if (look.part == Part::tail) tails_.insert(tails_.end(), cluster);
}

std::optional<LostFolders::Head> LostFolders::take_any() {
    if (!heads_.empty()) {
        // Up to the topmost one: what it holds then names those below it.
        auto top = heads_.begin();
        for (std::size_t depth = 0; depth < bound::folder_depth; ++depth) {
            const auto above = heads_.find(top->second);
            if (above == heads_.end()) break;
            top = above;
        }
        const Head out{top->first, top->second};
        heads_.erase(top);
        return out;
    }
    sort_out_starts();
    const auto& finds = !tops_.empty() ? tops_ : !starts_.empty() ? starts_ : tails_;
    if (finds.empty()) return std::nullopt;
    const auto cluster = *finds.begin();
    take({Run{cluster, 1}});
    return Head{cluster, 0};
}

/// Which of the clusters that may be a folder's first are in no other folder, and no later part of one: what
/// they hold names the others.
void LostFolders::sort_out_starts() {
    if (sorted_out_) return;
    sorted_out_ = true;
    tops_ = starts_;
    for (const auto start : named_) tops_.erase(start);
    for (const auto part : parts_) {
        if (const auto next = next_of(part, How::likely)) tops_.erase(*next);
    }
}

/// The first cluster after what was written into a folder when this cluster of it was full: there its writer
/// was then, and near there the folder goes on, as many clusters further as it names files. 0 where nothing
/// tells.
LostFolders::Writer LostFolders::writer_after(Cluster last) const {
    Writer out;
    for (std::size_t depth = 0; depth < bound::folder_depth; ++depth) {
        const auto named = edge(last).last;
        if (!named) {
            if (depth > 0) out.at = last + 1;
            return out;
        }
        if (!named->is_dir) {
            const auto end = named->start + named->clusters;
            if (grid_.holds(end)) out.at = static_cast<Cluster>(end);
            return out;
        }
        // After a folder comes what is in it.
        out.told_by = named->start;
        const auto its = last_of_.find(named->start);
        if (its == last_of_.end()) return out;
        last = its->second;
    }
    return out;
}

const FolderSigns::Edge& LostFolders::edge(Cluster cluster) const {
    if (edges_.size() > most_edges) edges_.clear();
    const auto it = edges_.find(cluster);
    return it != edges_.end() ? it->second : edges_.emplace(cluster, signs_.edge(cluster)).first->second;
}

bool LostFolders::is_not_older(Cluster last, Cluster next) const {
    const auto earlier = edge(last).last_birth, later = edge(next).first_birth;
    return earlier != 0 && later != 0 && earlier <= later;
}

/// A folder that was filled file by file goes on where its writer was then: its next cluster, and the first
/// file that this one names, come right after the last file that the cluster before names, and are not
/// older.
bool LostFolders::written_on(Cluster writer, Cluster last, Cluster next) const {
    // Clusters that folders may have got which the same writer made in between, one each.
    constexpr std::uint64_t others = 4;
    const auto first = edge(next).first;
    if (!first) return false;
    const auto to = writer + first->clusters + others;
    if (next < writer || next >= to || first->start < writer || first->start >= to || first->start == next)
        return false;
    const auto earlier = edge(last).last_birth, later = edge(next).first_birth;
    return earlier == 0 || later == 0 || earlier <= later;
}

bool LostFolders::goes_on(Cluster last, Cluster next, How how, Cluster writer) const {
    const auto tie = signs_.tie(last, next);
    if (tie != FolderSigns::Tie::none) return tie != FolderSigns::Tie::contradicts;
    if (named_.count(next)) return false;
    return (writer && written_on(writer, last, next)) ||
           (how == How::likely && edge(next).first && signs_.may_follow(last, next));
}

/// Of several clusters that a folder may go on in: folders that were filled in turns needed new ones at the
/// same time. The numbers of their names tell them apart; else it is the first.
Cluster LostFolders::by_numbers(Cluster last, const std::vector<Cluster>& may) const {
    if (may.size() == 1) return may.front();
    const auto names = signs_.names_in(last);
    if (names.size() < 2) return may.front();
    for (const auto c : may) {
        const auto next = signs_.names_in(c);
        if (!next.empty() && series_goes_on(names.end()[-2], names.back(), next.front())) return c;
    }
    return may.front();
}

std::optional<Cluster> LostFolders::next_of(Cluster last, How how) const {
    if (edge(last).ends) return std::nullopt;
    const auto writer = writer_after(last).at;
    std::vector<Cluster> may;
    for (auto it = parts_.lower_bound(writer); writer && it != parts_.end() && *it < writer + clusters_there;
         ++it) {
        if (*it != last && goes_on(last, *it, how, writer)) may.push_back(*it);
    }
    if (!may.empty()) return by_numbers(last, may);
    int looked = 0;
    for (auto it = parts_.upper_bound(last); it != parts_.end() && looked < most_candidates; ++it, ++looked) {
        if (goes_on(last, *it, how, writer)) return *it;
    }
    return std::nullopt;
}

LostFolders::GoesOn LostFolders::goes_on_from(Cluster last, How how, const ClusterSet* busy) {
    const auto writer = writer_after(last);
    GoesOn out{std::nullopt, writer.told_by};
    if (busy) look_from(writer.at, *busy);
    out.next = next_of(last, how);
    if (edge(last).left_open == 0) return out;
    for (auto it = parts_.upper_bound(last); !out.next && it != parts_.end() && far_ties_ < most_far_ties;
         ++it, ++far_ties_) {
        if (signs_.tie(last, *it) == FolderSigns::Tie::certain) out.next = *it;
    }
    return out;
}

std::optional<Cluster> LostFolders::may_go_on_from(Cluster last) const {
    int looked = 0;
    for (auto it = parts_.upper_bound(last); it != parts_.end() && looked < most_candidates; ++it, ++looked) {
        if (!named_.count(*it) && signs_.tie(last, *it) == FolderSigns::Tie::none && is_not_older(last, *it))
            return *it;
    }
    return std::nullopt;
}

std::vector<Run> LostFolders::follow(Cluster first, std::uint64_t most_clusters, How how) {
    take({{first, 1}});
    std::vector<Run> runs{{first, 1}};
    std::uint64_t count = 1;
    for (auto next = next_of(first, how); next && count < most_clusters;
         next = next_of(*next, how), ++count) {
        append_cluster(runs, *next);
        take({Run{*next, 1}});
    }
    return runs;
}

void LostFolders::take(const std::vector<Run>& runs) {
    for (const auto& r : runs) {
        heads_.erase(heads_.lower_bound(r.first), heads_.lower_bound(r.end()));
        for (auto* parts : {&parts_, &starts_, &tails_, &tops_})
            parts->erase(parts->lower_bound(r.first), parts->lower_bound(r.end()));
    }
}

}  // namespace undershelf::clusters
