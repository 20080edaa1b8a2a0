#pragma once
// Folder clusters in free space, by which folders are followed whose chain, or whose own entry, is gone.

#include <map>
#include <optional>
#include <set>
#include <vector>

#include "base/progress.hpp"
#include "clusters/cluster_set.hpp"
#include "source/source.hpp"

namespace undershelf::clusters {

/// What a file system knows a folder's clusters by.
class FolderSigns {
  public:
    virtual ~FolderSigns() = default;
    /// Of a folder: its first cluster for certain, any, certainly not its first, or nothing by itself: a
    /// cluster that only counts behind one that goes on in it.
    enum class Part : std::uint8_t { none, head, any, tail, rest };
    struct Look {
        Part part = Part::none;
        Cluster parent = 0;  ///< of a head that names it
    };
    /// `first`: the cluster's first 64 bytes, not all zeros.
    virtual Look look_at(Cluster cluster, Bytes first) const = 0;
    /// Can a folder go on from one cluster to the other, which stands behind it?
    virtual bool goes_on(Cluster before, Cluster after) const = 0;
    /// The same, where an entry begins in one and ends in the other, so that nothing else can be.
    virtual bool surely_goes_on(Cluster before, Cluster after) const = 0;
    /// The first cluster behind the file that a folder's cluster names last: there its writer was when the
    /// cluster was full, and near there the folder goes on, as many clusters further as it names files. 0
    /// where nothing tells.
    virtual Cluster written_up_to(Cluster) const { return 0; }
};

class LostFolders {
  public:
    /// Looks through clusters that are not `busy`, those near `known` places first, until all are seen or a
    /// fixed amount of the source has been read. `known`: source offsets where folders or lost files lie.
    LostFolders(const Source& source, const Grid& grid, const ClusterSet& busy, const FolderSigns& signs,
                const std::vector<std::uint64_t>& known, Progress& progress);
    /// Looks at these clusters alone: a sweep has found them.
    LostFolders(const Source& source, const Grid& grid, const FolderSigns& signs,
                const std::vector<Cluster>& found, Progress& progress);

    /// Looks for where the folder that starts at `first` goes on, in the clusters behind that are not `busy`:
    /// some for each, and all together no more than half a percent of the volume's bytes.
    void look_behind(Cluster first, const ClusterSet& busy);

    struct Head {
        Cluster cluster = 0;
        Cluster parent = 0;  ///< 0 where nothing names it
    };
    /// A folder nobody has taken yet: those that start with their head first, each after the folder above it,
    /// then the parts that may be a head, then the rest.
    std::optional<Head> take_any();

    /// The clusters of the folder that starts at `first`, as far as they can be followed: from each cluster
    /// to the nearest later one that can go on where it ends. Takes them.
    enum class How : std::uint8_t { likely, surely };
    std::vector<Run> follow(Cluster first, std::uint64_t most_clusters, How how = How::likely);
    /// Somebody has these.
    void take(const std::vector<Run>& runs);

  private:
    void look_at(Cluster cluster);
    void look_where_writer_was(Cluster last, const ClusterSet& busy);
    std::optional<Cluster> next_of(Cluster last, How how) const;

    const Source& source_;
    Grid grid_;
    const FolderSigns& signs_;
    std::map<Cluster, Cluster> heads_;  ///< cluster to its parent's
    std::set<Cluster> parts_;           ///< that a folder may go on in
    std::set<Cluster> starts_, tails_;  ///< those of them that are finds of their own
    std::uint64_t looked_behind_ = 0;
};

}  // namespace undershelf::clusters
