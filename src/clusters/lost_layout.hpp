#pragma once
// Where the clusters of a deleted file or folder lay, when only its start and size are known.

#include <cstdint>
#include <vector>

#include "base/timestamp.hpp"
#include "clusters/cluster_set.hpp"

namespace undershelf::clusters {

/// Clusters that a live file holds, and when they came to it.
struct LiveExtent {
    Run run;
    std::int64_t created = 0;  ///< ticks; when its owner was made, 0 for unknown
};

/// A live file in several runs.
struct Fragmented {
    std::vector<Run> runs;
    std::int64_t written = 0;  ///< ticks, 0 for unknown
};

/// Dates of FAT and exFAT are kept in units of two seconds; a finer part is often left out. What lies closer
/// together has no order.
constexpr std::int32_t date_resolution = 2 * Timestamp::per_second;

class LostLayout {
  public:
    /// `busy`: clusters in use now. `live` in any order.
    LostLayout(const Grid& grid, ClusterSet busy, std::vector<LiveExtent> live);

    struct Guess {
        std::vector<Run> runs;
        bool cut = false;  ///< it would have gone on after `most_runs`
    };
    /// Writers allocate ascending and step over clusters in use. A cluster in use now was in use then unless
    /// its owner is younger than the lost file, by more than dates resolve: then it was the lost file's, and
    /// is overwritten. `avoid`, ascending by their first clusters, were in use then, too. `written` in
    /// ticks, 0 for unknown. The start is always taken. Ends early at the end of the volume.
    Guess guess(Cluster start, std::uint64_t clusters, std::int64_t written, std::uint64_t most_runs,
                const std::vector<Run>& avoid = {}) const;

    enum class Breaks : std::uint8_t {
        causeless,  ///< the first is where the file could have gone on, so that one run would be guessed
        as_guessed,
        elsewhere,  ///< the file steps over clusters in use, and then not as would be guessed
    };
    /// What `guess` would say of a live file that lies in these runs, two at least.
    Breaks breaks_of(const std::vector<Run>& runs, std::int64_t written) const;

  private:
    /// The first cluster from `c` on that the lost file could have been given, where owners made after `now`
    /// came later; grid end for none.
    std::uint64_t next_to_take(std::uint64_t c, std::int64_t now) const;
    /// One after the last of the clusters from `c` on, itself one to take, that are alike; looks at `most`.
    std::uint64_t end_of_stretch(std::uint64_t c, std::uint64_t most) const;
    /// The extent that holds `c`; nothing for none.
    const LiveExtent* owner_of(std::uint64_t c) const;
    std::size_t first_younger(std::size_t from, std::int64_t now) const;

    Grid grid_;
    ClusterSet busy_;
    std::vector<LiveExtent> live_;
    /// A binary tree over live_: each node has the latest date of what is below it.
    std::vector<std::int64_t> latest_;
    std::size_t leaves_ = 1;
};

/// How live files are laid out, by size class: the prior for lost ones.
class LayoutHabit {
  public:
    /// `contiguous`: it lies in one run. Files in several runs that had to step over clusters in use are not
    /// counted: a lost one would not be guessed to lie in one run there.
    void count(std::uint64_t clusters, bool contiguous);
    struct Share {
        std::uint64_t contiguous = 0;
        std::uint64_t files = 0;
    };
    /// For files of about `clusters` clusters.
    Share share(std::uint64_t clusters) const { return classes_[size_class(clusters)]; }

  private:
    static std::size_t size_class(std::uint64_t clusters);
    Share classes_[8];
};

}  // namespace undershelf::clusters
