#pragma once
// What a file system knows a folder's clusters by, where no table has them any more.

#include <optional>
#include <string>
#include <vector>

#include "base/bytes.hpp"
#include "clusters/grid.hpp"

namespace undershelf::clusters {

class FolderSigns {
  public:
    virtual ~FolderSigns() = default;
    /// Of a folder: its first cluster for certain, any, certainly not its first, or nothing by itself: a
    /// cluster that only counts after one that goes on in it.
    enum class Part : std::uint8_t { none, head, any, tail, rest };
    struct Look {
        Part part = Part::none;
        Cluster parent = 0;  ///< of a head that names it
    };
    /// `first`: the cluster's first 64 bytes, not all zeros.
    virtual Look look_at(Cluster cluster, Bytes first) const = 0;

    /// True when nothing comes after this cluster of a folder: it has an end mark.
    virtual bool ends_in(Cluster) const = 0;
    /// What two clusters say of each other: an entry begins in one and ends in the other, which nothing else
    /// could; one contradicts the other; or nothing lies in both.
    enum class Tie : std::uint8_t { none, contradicts, certain };
    virtual Tie tie(Cluster before, Cluster after) const = 0;
    /// Can a folder go on from one cluster to the other, a later one, by no more than that nothing ties them?
    virtual bool may_follow(Cluster before, Cluster after) const = 0;
    /// Was the folder's writer at `writer`, a cluster, when it needed `after`, which goes on as one that was
    /// filled from there?
    virtual bool written_on(Cluster writer, Cluster before, Cluster after) const = 0;

    /// What the last entry of a full cluster names; nothing where it has no clusters.
    struct Named {
        Cluster start = 0;
        std::uint64_t clusters = 0;  ///< of a file
        bool is_dir = false;
    };
    virtual std::optional<Named> named_last(Cluster) const = 0;
    /// The names in a folder's cluster, in their order; UTF-8.
    virtual std::vector<std::string> names_in(Cluster) const = 0;
    /// Where the folders begin that a folder's cluster names.
    virtual std::vector<Cluster> folders_named_in(Cluster) const { return {}; }
    /// Bytes at the end of a cluster that are of an entry which goes on in the next one.
    virtual std::uint64_t left_open(Cluster) const = 0;
    /// Do the entries of `after` not begin before those of `before` end, by their dates of creation?
    virtual bool is_not_older(Cluster before, Cluster after) const = 0;
};

}  // namespace undershelf::clusters
