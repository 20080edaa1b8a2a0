#pragma once
// Where the clusters of a deleted file or folder lay: only its start and size are known.

#include <vector>

#include "fat/table.hpp"

namespace undershelf::fat {

/// Clusters that a live file holds, and when they came to it.
struct LiveExtent {
    Run run;
    std::int64_t created = 0;  ///< ticks; when its owner was made, 0 for unknown
};

class LostLayout {
  public:
    /// `live` in any order.
    LostLayout(const Table& table, std::vector<LiveExtent> live);

    struct Guess {
        std::vector<Run> runs;
        bool stepped = false;  ///< over clusters that were in use when it was written
    };
    /// Writers allocate ascending and step over clusters in use. A cluster in use now was in use then unless
    /// its owner is younger than the lost file: then it was the lost file's, and is overwritten. `written` in
    /// ticks, 0 for unknown. The start is always taken. Ends early at the end of the volume.
    Guess guess(Cluster start, std::uint64_t clusters, std::int64_t written) const;
    /// The next cluster behind `last` that such a file would have been given, 0 for none.
    Cluster next(Cluster last, std::int64_t written) const;

  private:
    bool was_in_use(Cluster c, std::int64_t written) const;

    const Table& table_;
    std::vector<LiveExtent> live_;
};

/// How live files are laid out, by size class: the prior for lost ones.
class LayoutHabit {
  public:
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

}  // namespace undershelf::fat
