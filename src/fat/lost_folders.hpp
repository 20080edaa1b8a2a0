#pragma once
// Folder clusters in free space: first clusters, which begin with '.' and '..', and later ones, which are
// nothing but slots. By them folders are followed whose chain, or whose own entry, is gone.

#include <map>
#include <optional>
#include <set>
#include <vector>

#include "base/progress.hpp"
#include "fat/table.hpp"

namespace undershelf::fat {

class LostFolders {
  public:
    /// Looks through free clusters, those near `known` places first, until all are seen or a fixed amount of
    /// the source has been read. `known`: source offsets where folders or lost files lie.
    LostFolders(const Source& source, std::uint64_t volume_offset, const Table& table,
                const std::vector<std::uint64_t>& known, Progress& progress);

    /// First clusters of folders nobody has taken yet, ascending, with the cluster their '..' names.
    struct Head {
        Cluster cluster = 0;
        Cluster parent = 0;
    };
    std::optional<Head> take_head();
    void take_head(Cluster cluster) { heads_.erase(cluster); }
    /// A later cluster that nobody has taken yet.
    std::optional<Cluster> take_tail();

    /// The clusters of the folder that starts at `first`, as far as they can be followed: from a full cluster
    /// to the nearest later one whose slots can go on where its slots end. Takes them.
    std::vector<Run> follow(Cluster first, std::uint64_t most_clusters);

  private:
    void look_at(Cluster cluster);
    std::optional<Cluster> next_of(Cluster last) const;
    ByteVector bytes_of(Cluster cluster) const;

    const Source& source_;
    std::uint64_t volume_offset_;
    const Table& table_;
    std::map<Cluster, Cluster> heads_;  ///< cluster to its parent's
    std::set<Cluster> tails_;
};

}  // namespace undershelf::fat
