#include <fmt/format.h>

#include <algorithm>

#include "base/text.hpp"
#include "exfat/entry_set.hpp"
#include "exfat/settler.hpp"

namespace undershelf::exfat {

namespace {
constexpr std::uint32_t largest_cluster = 32 << 20;
constexpr std::size_t most_votes = 8;
/// Each named folder may be any found one: so many of both are held against each other.
constexpr std::size_t most_named = 128, most_starts = 2048;
constexpr std::size_t most_single_pairs = 512;
/// Files that a data start must fit where nothing else tells, and how far into a volume it is looked for.
constexpr std::size_t fewest_slid = 3, most_slid = 12;
constexpr std::uint64_t farthest_heap = 32 << 20;
}  // namespace

/// A format of the same kind and size leaves old sets and new ones in one grid: the old ones were made before
/// anything that the volume's tree names now.
void Settler::add_present_grids(std::vector<Candidate>& out) const {
    for (const auto& life : s_.present) {
        const auto& v = life.volume;
        if (v.family != "exFAT" || v.state != VolumeState::present || v.cluster_size == 0) continue;
        auto former = grid_at(v.grid_start, v.cluster_size, 0);
        if (!former) continue;
        Candidate c;
        c.former = std::move(*former);
        c.former.end_date = life.oldest;
        c.found_by = "folders older than all that the present volume names";
        c.votes.push_back(fmt::format("It had the same clusters as the present volume {}.", v.number));
        out.push_back(std::move(c));
    }
}

void Settler::add_heads(std::vector<Candidate>& out) const {
    for (const auto place : s_.heads) {
        const auto g = read_geometry(s_.source, place);
        if (!g || s_.taken.contains(place)) continue;
        for (const auto back : {std::uint64_t{0}, std::uint64_t{boot_region_sectors} * g->sector_size}) {
            if (back > place) continue;
            Candidate c;
            c.former.offset = place - back;
            c.former.geometry = *g;
            c.found_by = "old boot region";
            c.votes.push_back(
                fmt::format("A boot region that describes it is left at offset {}.", grouped(place)));
            out.push_back(std::move(c));
        }
    }
}

/// Each up-case table may be the one that a root folder names; with the root itself, which is in a
/// cluster, that leaves one data start for each cluster size.
void Settler::add_roots(std::vector<Candidate>& out) const {
    for (const auto& root : roots_) {
        for (const auto up_case : up_cases_) {
            for (std::uint32_t size = settling::smallest_unit; size <= largest_cluster; size *= 2) {
                const auto before = std::uint64_t{root.up_case_cluster - 2} * size;
                if (before > up_case || root.offset < up_case - before) continue;
                const auto heap = up_case - before;
                auto former = grid_at(heap, size, root.bitmap_length * 8);
                if (!former || out.size() > 4096) continue;
                const auto cluster = former->grid().cluster_at(root.offset);
                if (!former->geometry.holds(cluster)) continue;
                Candidate c;
                c.former = std::move(*former);
                c.former.root = {cluster};
                c.former.geometry.boot.FirstClusterOfRootDirectory = cluster;
                c.found_by = "root folder and up-case table";
                c.votes.push_back(fmt::format("Its root folder at offset {} names the up-case table at {}.",
                                              grouped(root.offset), grouped(up_case)));
                out.push_back(std::move(c));
            }
        }
    }
}

std::vector<settling::GridVote> Settler::votes(std::uint32_t largest) const {
    std::vector<SetTrace> named;
    std::vector<std::uint64_t> starts;
    for (const auto& s : sets_) {
        if (s.is_dir && s.first_cluster >= 2) named.push_back(s);
        if (s.offset % 512 == 0) starts.push_back(s.offset);
    }
    std::vector<settling::Sighting> pairs;
    const auto named_step = std::max<std::size_t>(1, named.size() / most_named);
    const auto start_step = std::max<std::size_t>(1, starts.size() / most_starts);
    for (std::size_t i = 0; i < named.size(); i += named_step) {
        for (std::size_t j = 0; j < starts.size(); j += start_step)
            pairs.push_back({starts[j], named[i].first_cluster - 2});
    }
    // Of a few pairs each is worth a look.
    if (pairs.size() <= most_single_pairs)
        return settling::vote_for_grids(pairs, largest, most_single_pairs, 1);
    return settling::vote_for_grids(pairs, largest, most_votes);
}

void Settler::add_votes(std::vector<Candidate>& out) const {
    for (const auto& vote : votes(largest_cluster)) {
        auto former = grid_at(vote.start, vote.unit_size, 0);
        if (!former) continue;
        Candidate c;
        c.former = std::move(*former);
        c.found_by = "folders that agree on its geometry";
        c.argued = true;
        out.push_back(std::move(c));
    }
}

/// Where no folder names another one, the files alone may tell: their clusters are held against every data
/// start that a formatter could have chosen before the first set, as far as all they show agrees.
std::optional<Candidate> Settler::slide() const {
    std::vector<Shown> shown;
    for (const auto& s : sets_) {
        if (shown.size() == most_slid) break;
        const auto read = s.is_dir || s.length == 0
                              ? std::nullopt
                              : sound_set(s_.source.read_vector({s.offset, longest_set}));
        const auto ext = read ? extension_of(utf8_from_utf16(read->name)) : std::string();
        // Texts fit nearly anywhere in a text.
        if (has_expected_start(ext) && !is_text_extension(ext)) shown.push_back({s, ext});
    }
    if (shown.size() < fewest_slid) return std::nullopt;
    const auto place = shown.front().set.offset;
    const auto* around = s_.present_around(place);
    const auto start = around ? around->offset : 0;
    std::optional<Candidate> best;
    bool clear = false;
    for (std::uint32_t size = settling::smallest_unit; size <= largest_cluster; size *= 2) {
        const auto cluster = place - (place - start) % 512 - (place - start) % size / 512 * 512;
        const auto last = std::min(cluster, start + farthest_heap);
        for (auto heap = start + (cluster - start) % size; heap <= last; heap += size) {
            if (progress_.stopped()) return std::nullopt;
            if (!all_fit(shown, heap, size)) continue;
            auto former = grid_at(heap, size, 0);
            if (!former) continue;
            Candidate c;
            c.former = std::move(*former);
            c.found_by = "folder and the files it names";
            c.argued = true;
            weigh(c);
            clear = !best || c.evidence.weight() != best->evidence.weight();
            if (!best || c.evidence.weight() > best->evidence.weight()) best = std::move(c);
        }
    }
    return best && clear && best->evidence.bears_out() && stands_out(*best) && !present_that_explains(*best)
               ? std::move(best)
               : std::nullopt;
}

bool Settler::all_fit(const std::vector<Shown>& shown, std::uint64_t heap, std::uint32_t size) const {
    std::size_t agree = 0;
    for (const auto& s : shown) {
        const auto at = heap + (s.set.first_cluster - 2) * std::uint64_t{size};
        if (s.set.first_cluster < 2 || at >= s_.source.size()) return false;
        if (s_.taken.contains(at)) continue;
        const auto bytes =
            s_.source.read_vector({at, std::min<std::uint64_t>(s.set.length, signature_bytes)});
        const auto said = compare_with_extension(bytes, s.ext).agreement;
        if (said == Agreement::contradicts) return false;
        agree += said == Agreement::agrees;
    }
    return agree >= fewest_slid;
}

std::vector<Candidate> Settler::candidates() {
    std::vector<Candidate> out;
    add_present_grids(out);
    add_heads(out);
    add_roots(out);
    add_votes(out);
    return out;
}

}  // namespace undershelf::exfat
