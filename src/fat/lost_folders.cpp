#include "fat/lost_folders.hpp"

#include <algorithm>

#include "fat/directory.hpp"

namespace undershelf::fat {

namespace {
constexpr std::uint64_t block = 64 << 10;
/// How much of a volume is read in search of folders: a small card whole, of a big one the neighbourhood of
/// what is known. Everything else is found by sweeping.
constexpr std::uint64_t most_blocks = 4096;
constexpr std::uint64_t blocks_around = 4;
/// Later clusters further away than this many candidates are not considered.
constexpr int most_candidates = 64;

const LongNameEntry* long_slot(Bytes slot) {
    const auto* e = reinterpret_cast<const LongNameEntry*>(slot.data());
    return (e->LDIR_Attr & ATTR_LONG_NAME_MASK) == ATTR_LONG_NAME ? e : nullptr;
}

/// Can a folder's slots go on from the end of one cluster to the start of another? A long name that is not
/// finished must go on under its checksum, and one that is finished must not.
bool goes_on(Bytes before, Bytes after) {
    const auto* last = long_slot(before.last(slot_size));
    const auto* first = long_slot(after.first(slot_size));
    if (!last) {
        // Behind a short entry a new name begins: its first slot holds the end of the name.
        if (!first || first->LDIR_Ord == slot_erased) return true;
        return first->LDIR_Ord & LAST_LONG_ENTRY;
    }
    if (first) return first->LDIR_Chksum == last->LDIR_Chksum;
    const auto* name = after.data();
    if (name[0] != slot_erased) return name_checksum(name) == last->LDIR_Chksum;
    // The erased first byte can be solved for; it must come out as something a short name can begin with.
    const auto letter = solve_first_byte(name, last->LDIR_Chksum);
    return letter > 0x20 && letter != slot_erased && !(letter >= 'a' && letter <= 'z');
}
}  // namespace

LostFolders::LostFolders(const Source& source, std::uint64_t volume_offset, const Table& table,
                         const std::vector<std::uint64_t>& known, Progress& progress)
    : source_(source), volume_offset_(volume_offset), table_(table) {
    const auto& g = table.geometry();
    const auto data = volume_offset + g.data_offset;
    const auto end = std::min(source.size(), data + std::uint64_t{g.cluster_count} * g.cluster_size);
    if (data >= end) return;
    std::vector<ByteRange> near;
    for (const auto at : known) {
        const auto from = at / block > blocks_around ? (at / block - blocks_around) * block : 0;
        near.push_back({from, (2 * blocks_around + 1) * block});
    }
    std::vector<ByteRange> order = RangeSet(std::move(near)).ranges();
    order.push_back({data, end - data});
    const RangeSet holding(source.data_ranges());
    RangeSet seen;
    std::uint64_t budget = most_blocks * block;
    for (const auto& wish : order) {
        const auto inside = overlap(wish, {data, end - data});
        if (!inside) continue;
        for (const auto& part : holding.within(*inside)) {
            // Whole clusters only, and each only once.
            auto first = (part.offset - data) / g.cluster_size;
            const auto last = (part.end() - data + g.cluster_size - 1) / g.cluster_size;
            for (; first < last && budget > 0 && !progress.stopped(); ++first) {
                const auto c = static_cast<Cluster>(first + 2);
                if (!g.holds(c) || table.in_use(c)) continue;
                const auto at = data + first * g.cluster_size;
                if (seen.contains(at)) continue;
                look_at(c);
                budget -= std::min<std::uint64_t>(budget, std::min<std::uint64_t>(g.cluster_size, block));
                if (first % 1024 == 0) progress.at(at - data, end - data);
            }
            seen.add(part);
        }
    }
}

ByteVector LostFolders::bytes_of(Cluster cluster) const {
    const auto& g = table_.geometry();
    return source_.read_vector({volume_offset_ + g.cluster_offset(cluster), g.cluster_size});
}

void LostFolders::look_at(Cluster cluster) {
    const auto& g = table_.geometry();
    const auto head = source_.read_vector({volume_offset_ + g.cluster_offset(cluster), 2 * slot_size});
    if (head[0] == slot_end) return;
    if (begins_with_dots(head)) {
        if (start_cluster(*load<DirEntry>(head), g.width) != cluster) return;
        heads_[cluster] = start_cluster(*load<DirEntry>(head, slot_size), g.width);
        return;
    }
    // A look at one slot turns nearly everything away before the whole cluster is read.
    if (looks_like_slots(Bytes(head).first(slot_size)) && looks_like_slots(bytes_of(cluster)))
        tails_.insert(cluster);
}

std::optional<LostFolders::Head> LostFolders::take_head() {
    if (heads_.empty()) return std::nullopt;
    const Head out{heads_.begin()->first, heads_.begin()->second};
    heads_.erase(heads_.begin());
    return out;
}

std::optional<Cluster> LostFolders::take_tail() {
    if (tails_.empty()) return std::nullopt;
    const auto out = *tails_.begin();
    tails_.erase(tails_.begin());
    return out;
}

std::optional<Cluster> LostFolders::next_of(Cluster last) const {
    const auto before = bytes_of(last);
    // A cluster with an end mark is its folder's last one.
    if (before[before.size() - slot_size] == slot_end) return std::nullopt;
    int looked = 0;
    for (auto it = tails_.upper_bound(last); it != tails_.end() && looked < most_candidates; ++it, ++looked) {
        if (goes_on(before, bytes_of(*it))) return *it;
    }
    return std::nullopt;
}

std::vector<Run> LostFolders::follow(Cluster first, std::uint64_t most_clusters) {
    take_head(first);
    tails_.erase(first);
    std::vector<Run> runs{{first, 1}};
    for (Cluster last = first; cluster_total(runs) < most_clusters;) {
        const auto next = next_of(last);
        if (!next) break;
        append_cluster(runs, *next);
        tails_.erase(*next);
        last = *next;
    }
    return runs;
}

}  // namespace undershelf::fat
