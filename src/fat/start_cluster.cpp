#include "fat/start_cluster.hpp"

#include <algorithm>
#include <cmath>

#include "base/text.hpp"
#include "content/signature.hpp"

namespace undershelf::fat {

namespace {
// Weights are natural logarithms of likelihood ratios; they are argued, since no volume has enough such files
// to count by, and only their order decides between candidates: a signature before an end, an end before a
// neighbour, what rules a candidate out before all of them together.
constexpr double own_word = 0.5;        ///< the slot says so, on a volume that speaks for cleared halves
constexpr double told_of_another = -6;  ///< another erased slot names this very cluster: one of 400 is both's
constexpr double in_use_now =
    -4;  ///< it is somebody's now, and one of 50 such is the lost file's all the same
constexpr double content_agrees = 4;        ///< of other clusters one in 50 begins as this format does
constexpr double content_weakly = 1;        ///< of other clusters one in three is text
constexpr double content_contradicts = -5;  ///< of right starts one in 150 does, by a wrong name
constexpr double reads_zero = -4;           ///< of right starts one in 50 does, being discarded
constexpr double ends_well =
    2.5;  ///< zeros from its end to that of its sector: one in twelve of other clusters
constexpr double ends_badly = -1.5;  ///< one right file in five has other data there, by its writer
constexpr double near_neighbours =
    2;  ///< files of one time are near one another: seven times as often as not
/// So likely at most may it be that all deleted files lay below cluster 65536 by chance: where what is
/// recorded fails as well, which it seldom does otherwise, cleared halves are the better reason.
constexpr double more_likely_cleared = 0.7;
constexpr double rival_margin = 2;  ///< a candidate seven times less likely is no rival
constexpr std::int64_t same_time = 600 * Timestamp::per_second;  ///< a card is copied to in minutes
constexpr std::int64_t near_clusters = 4096;                     ///< of 65536, that a wrong half is off by
}  // namespace

StartFinder::StartFinder(const Source& source, const Table& table) : source_(source), table_(table) {}

void StartFinder::learn(const DirEntry& erased) {
    const bool has_content = (erased.DIR_Attr & ATTR_DIRECTORY) || erased.DIR_FileSize.value() > 0;
    if (!has_content) return;
    ++erased_;
    erased_high_ += erased.DIR_FstClusHI.value() != 0;
    told_.insert(start_cluster(erased, table_.geometry().width));
}

bool StartFinder::speaks_for_cleared() const {
    if (erased_high_ > 0 || live_high_ == 0) return false;
    const double low = static_cast<double>(live_low_ + 1) / static_cast<double>(live_low_ + live_high_ + 2);
    return std::pow(low, static_cast<double>(erased_)) < more_likely_cleared;
}

void StartFinder::add_neighbour(std::int64_t ticks, Cluster start) {
    if (ticks) neighbours_.push_back({ticks, start});
}

void StartFinder::settle_neighbours() {
    std::sort(neighbours_.begin(), neighbours_.end(),
              [](const Neighbour& a, const Neighbour& b) { return a.ticks < b.ticks; });
}

std::vector<Cluster> StartFinder::candidates(const DirEntry& erased) const {
    const auto& g = table_.geometry();
    const auto own = start_cluster(erased, g.width);
    if (g.width != Width::fat32 || erased.DIR_FstClusHI.value() != 0) {
        return g.holds(own) ? std::vector<Cluster>{own} : std::vector<Cluster>{};
    }
    std::vector<Cluster> out;
    const std::uint64_t end = table_.grid().within(source_.size()) + 2ull;
    for (std::uint64_t c = own; c < end; c += 65536) {
        if (g.holds(c)) out.push_back(static_cast<Cluster>(c));
    }
    return out;
}

double StartFinder::weigh_content(Cluster candidate, const Entry& entry) const {
    const auto at = table_.grid().offset(candidate);
    ByteVector first(static_cast<std::size_t>(
        std::min<std::uint64_t>({entry.size, signature_bytes, table_.geometry().cluster_size})));
    if (!source_.read(at, first).empty()) return 0;
    if (all_zero(first)) return reads_zero;
    switch (compare_with_extension(first, content_extension(entry.name)).agreement) {
        case Agreement::agrees:
            return content_agrees;
        case Agreement::weakly:
            return content_weakly;
        case Agreement::contradicts:
            return content_contradicts;
        case Agreement::unknown:
            break;
    }
    return 0;
}

namespace {
/// Drivers fill the last sector with zeros after the file's end; 0 where that cannot be told.
double weigh_end(const Source& source, std::uint64_t start, std::uint64_t size) {
    const auto used = size % 512;
    if (used == 0) return 0;
    const auto sector = source.read_vector({start + size - used, 512});
    if (all_zero(sector)) return 0;
    return all_zero(Bytes(sector).subspan(used)) && sector[used - 1] != 0 ? ends_well : ends_badly;
}
}  // namespace

double StartFinder::weigh_neighbours(Cluster candidate, std::int64_t written) const {
    if (written == 0) return 0;
    auto it = std::lower_bound(neighbours_.begin(), neighbours_.end(), written - same_time,
                               [](const Neighbour& n, std::int64_t t) { return n.ticks < t; });
    int looked = 0;
    for (; it != neighbours_.end() && it->ticks <= written + same_time && looked < 1000; ++it, ++looked) {
        if (std::abs(static_cast<std::int64_t>(it->start) - static_cast<std::int64_t>(candidate)) <
            near_clusters)
            return near_neighbours;
    }
    return 0;
}

double StartFinder::weigh(Cluster candidate, Cluster own, const Entry& entry) const {
    double weight = 0;
    if (candidate == own) {
        weight += own_word;
    } else if (told_.count(candidate)) {
        weight += told_of_another;
    }
    if (table_.in_use(candidate)) weight += in_use_now;
    weight += weigh_end(source_, table_.grid().offset(candidate), entry.size);
    return weight + weigh_neighbours(candidate, std::max(ticks_of(entry.modified), ticks_of(entry.created)));
}

bool StartFinder::fails(Cluster own, double content, const Entry& entry) const {
    return content == reads_zero || content == content_contradicts || table_.in_use(own) ||
           weigh_end(source_, table_.grid().offset(own), entry.size) == ends_badly;
}

ArguedStart StartFinder::find_file(const DirEntry& erased, const Entry& entry) const {
    ArguedStart out;
    const auto all = candidates(erased);
    if (all.empty()) return out;
    // Without a low half there is nothing that could hold.
    const auto own = start_cluster(erased, Width::fat32);
    const bool recorded = all.front() == own;
    out.cluster = all.front();
    if (all.size() == 1 || (recorded && !speaks_for_cleared())) return out;
    const auto own_content = recorded ? weigh_content(own, entry) : content_contradicts;
    const bool held = recorded && !fails(own, own_content, entry);
    double best = -1e9;
    std::vector<double> weights;
    for (const auto c : all) {
        // Zeros are no better than what is recorded, whatever that is.
        const auto content = c == own ? own_content : weigh_content(c, entry);
        if (c != own && content == reads_zero) continue;
        weights.push_back(content + weigh(c, own, entry));
        if (weights.back() > best) {
            best = weights.back();
            out.cluster = held ? own : c;
        }
    }
    out.rivals = static_cast<std::uint64_t>(
        std::count_if(weights.begin(), weights.end(), [&](double w) { return w > best - rival_margin; }));
    out.rebuilt = out.cluster != own;
    return out;
}

}  // namespace undershelf::fat
