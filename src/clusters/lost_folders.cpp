#include "clusters/lost_folders.hpp"

#include <algorithm>

#include "clusters/folder_bytes.hpp"
#include "volume/budget.hpp"

namespace undershelf::clusters {

namespace {
constexpr std::uint64_t block = 64 << 10;
/// A small card is searched whole, of a big volume the neighbourhood of what is known first.
constexpr std::uint64_t blocks_around = 4;
/// Later clusters further away than this many candidates are not considered.
constexpr int most_candidates = 64;
/// Where a folder's writer was: so many clusters are looked at, and so many of those that are parts of
/// folders.
constexpr std::uint64_t clusters_there = 16;
constexpr int candidates_there = 8;
}  // namespace

LostFolders::LostFolders(const Source& source, const Grid& grid, const ClusterSet& busy,
                         const FolderSigns& signs, const std::vector<std::uint64_t>& known,
                         Progress& progress)
    : source_(source), grid_(grid), signs_(signs) {
    const ByteRange data{grid.data_offset, std::uint64_t{grid.within(source.size())} * grid.cluster_size};
    if (data.empty()) return;
    std::vector<ByteRange> near;
    for (const auto at : known) {
        const auto from = at / block > blocks_around ? (at / block - blocks_around) * block : 0;
        near.push_back({from, (2 * blocks_around + 1) * block});
    }
    std::vector<ByteRange> order = RangeSet(std::move(near)).ranges();
    order.push_back(data);
    const RangeSet holding(source.data_ranges());
    ClusterSet seen = busy;
    std::uint64_t budget = bound::search_bytes;
    for (const auto& wish : order) {
        const auto inside = overlap(wish, data);
        if (!inside) continue;
        for (const auto& part : holding.within(*inside)) {
            // Whole clusters only, and each only once.
            const auto last = 2 + (part.end() - data.offset + grid.cluster_size - 1) / grid.cluster_size;
            auto c = seen.next_out(2 + (part.offset - data.offset) / grid.cluster_size);
            for (; c < last && grid.holds(c) && budget > 0 && !progress.stopped(); c = seen.next_out(c + 1)) {
                look_at(static_cast<Cluster>(c));
                seen.add(c);
                budget -= std::min<std::uint64_t>({budget, grid.cluster_size, block});
                if (c % 1024 == 0) progress.at((c - 2) * grid.cluster_size, data.length);
            }
        }
    }
}

LostFolders::LostFolders(const Source& source, const Grid& grid, const FolderSigns& signs,
                         const std::vector<Cluster>& found, Progress& progress)
    : source_(source), grid_(grid), signs_(signs) {
    for (std::size_t i = 0; i < found.size() && !progress.stopped(); ++i) {
        if (grid.holds(found[i])) look_at(found[i]);
        if (i % 1024 == 0) progress.at(i, found.size());
    }
}

void LostFolders::look_behind(Cluster first, const ClusterSet& busy) {
    constexpr int most_behind = 128;
    constexpr std::uint64_t cost = 512;  // a sector each
    const auto most =
        std::max<std::uint64_t>(most_behind, grid_.count * std::uint64_t{grid_.cluster_size} / 200 / cost);
    const auto end = grid_.within(source_.size()) + std::uint64_t{2};
    auto last = first;
    for (int behind = 0; behind < most_behind && looked_behind_ < most;) {
        // Nothing follows the end mark of a folder.
        const auto slot = source_.read_vector({grid_.range({last, 1}).end() - FolderBytes::slot_size, 1});
        if (slot[0] == 0) return;
        look_where_writer_was(last, busy);
        if (const auto next = next_of(last, How::likely)) {
            last = *next;
            behind = 0;
            continue;
        }
        bool goes_on = false;
        for (auto c = busy.next_out(last + std::uint64_t{1});
             c < end && grid_.holds(c) && behind < most_behind && !goes_on; c = busy.next_out(c + 1)) {
            const auto here = static_cast<Cluster>(c);
            look_at(here);
            ++behind;
            ++looked_behind_;
            goes_on = parts_.count(here) && signs_.goes_on(last, here);
            if (goes_on) last = here;
        }
        if (!goes_on) return;
        behind = 0;
    }
}

void LostFolders::look_where_writer_was(Cluster last, const ClusterSet& busy) {
    const std::uint64_t from = signs_.written_up_to(last);
    if (from == 0) return;
    for (auto c = busy.next_out(from); c < from + clusters_there && grid_.holds(c) &&
                                       grid_.range({static_cast<Cluster>(c), 1}).end() <= source_.size();
         c = busy.next_out(c + 1)) {
        if (!parts_.count(static_cast<Cluster>(c))) look_at(static_cast<Cluster>(c));
        ++looked_behind_;
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
    const auto& finds = starts_.empty() ? tails_ : starts_;
    if (finds.empty()) return std::nullopt;
    const auto cluster = *finds.begin();
    take({Run{cluster, 1}});
    return Head{cluster, 0};
}

std::optional<Cluster> LostFolders::next_of(Cluster last, How how) const {
    const auto goes_on = [&](Cluster next) {
        return how == How::surely ? signs_.surely_goes_on(last, next) : signs_.goes_on(last, next);
    };
    int looked = 0;
    for (auto it = parts_.upper_bound(last); it != parts_.end() && looked < most_candidates; ++it, ++looked) {
        if (goes_on(*it)) return *it;
    }
    const auto there = signs_.written_up_to(last);
    looked = 0;
    for (auto it = parts_.lower_bound(there); there && it != parts_.end() && looked < candidates_there;
         ++it, ++looked) {
        if (*it != last && goes_on(*it)) return *it;
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
        for (auto* parts : {&parts_, &starts_, &tails_})
            parts->erase(parts->lower_bound(r.first), parts->lower_bound(r.end()));
    }
}

}  // namespace undershelf::clusters
