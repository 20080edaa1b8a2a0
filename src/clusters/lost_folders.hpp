#pragma once
// Folder clusters in free space, by which folders are followed whose chain, or whose own entry, is gone.

#include <map>
#include <optional>
#include <set>
#include <unordered_map>
#include <utility>
#include <vector>

#include "base/progress.hpp"
#include "clusters/cluster_set.hpp"
#include "clusters/folder_signs.hpp"
#include "source/source.hpp"

namespace undershelf::clusters {

class LostFolders {
  public:
    struct Search {
        ClusterSet busy;                   ///< not to be looked at
        std::vector<Cluster> found;        ///< that a sweep found: looked at first
        std::vector<std::uint64_t> known;  ///< source offsets where folders or lost files lie
        std::uint64_t bytes;               ///< of the source that may be read, but for what was found
    };
    /// Looks through free clusters: those that were found, those near known places, then the others, until
    /// all are seen or enough was read.
    LostFolders(const Source& source, const Grid& grid, const FolderSigns& signs, Search search,
                Progress& progress);
    /// Looks at these clusters alone.
    LostFolders(const Source& source, const Grid& grid, const FolderSigns& signs,
                const std::vector<Cluster>& found, Progress& progress);

    /// True when free space was looked through to its end.
    bool has_seen_all() const { return seen_all_; }
    /// A folder is said to begin there, so that no other one goes on in it.
    void name(Cluster start) { named_.insert(start); }

    /// Looks for where the folder that starts at `first` goes on, where its writer was and in the clusters
    /// after it that are not `busy`: some for each, and all together no more than half a percent of the
    /// volume's bytes.
    void look_along(Cluster first, const ClusterSet& busy);

    struct Head {
        Cluster cluster = 0;
        Cluster parent = 0;  ///< 0 where nothing names it
    };
    /// A folder nobody has taken yet: those that start with their head first, each after the folder above it,
    /// then the parts that may be a head, those first that nothing names and nothing goes on in, then the
    /// rest.
    std::optional<Head> take_any();

    /// The clusters of the folder that starts at `first`, as far as they can be followed. Takes them.
    enum class How : std::uint8_t { likely, surely };
    std::vector<Run> follow(Cluster first, std::uint64_t most_clusters, How how = How::likely);
    /// What the beginning and the end of a folder's cluster tell.
    const FolderSigns::Edge& edge(Cluster cluster) const;
    /// Does nobody have it yet?
    bool is_part(Cluster cluster) const { return parts_.count(cluster) > 0; }
    /// Somebody has these.
    void take(const std::vector<Run>& runs);

    /// Where the folder at `first` ends, as far as it is known: it is read up to there.
    void ends(Cluster first, Cluster last) {
        last_of_[first] = last;
        changed_.push_back(first);
    }
    /// Folders of which that was said since this was asked last, by their first clusters.
    std::vector<Cluster> take_changed() { return std::exchange(changed_, {}); }
    struct GoesOn {
        std::optional<Cluster> next;
        Cluster waits_for = 0;  ///< the folder on whose end it depends where it goes on; 0 for none
    };
    /// Where a folder that was followed as far as it went goes on after all, now that others are known:
    /// `last` is its last cluster.
    GoesOn goes_on_from(Cluster last, How how, const ClusterSet* busy);
    /// Of the parts that nobody has, those after `last` that may be more of a folder by the dates in them,
    /// and that nothing speaks against: the first.
    std::optional<Cluster> may_go_on_from(Cluster last) const;

  private:
    void look_at(Cluster cluster);
    void note_names();
    void look_from(Cluster from, const ClusterSet& busy);
    std::optional<Cluster> next_of(Cluster last, How how) const;
    bool goes_on(Cluster last, Cluster next, How how, Cluster writer) const;
    bool is_not_older(Cluster last, Cluster next) const;
    bool written_on(Cluster writer, Cluster last, Cluster next) const;
    Cluster by_numbers(Cluster last, const std::vector<Cluster>& may) const;
    struct Writer {
        Cluster at = 0;
        Cluster told_by = 0;  ///< the folder at whose end it was, where the last one names one
    };
    Writer writer_after(Cluster last) const;
    void sort_out_starts();

    const Source& source_;
    Grid grid_;
    const FolderSigns& signs_;
    bool seen_all_ = true;
    std::map<Cluster, Cluster> heads_;  ///< cluster to its parent's
    std::set<Cluster> parts_;           ///< that a folder may go on in
    std::set<Cluster> starts_, tails_;  ///< those of them that are finds of their own
    std::set<Cluster> tops_;            ///< of the starts, those that nothing names or goes on in
    bool sorted_out_ = false;
    std::set<Cluster> named_;  ///< said to be a folder's first
    std::unordered_map<Cluster, Cluster> last_of_;
    std::vector<Cluster> changed_;
    mutable std::unordered_map<Cluster, FolderSigns::Edge> edges_;
    std::uint64_t looked_along_ = 0;
    std::size_t far_ties_ = 0;
};

}  // namespace undershelf::clusters
