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

    /// What an entry of a folder names.
    struct Named {
        Cluster start = 0;
        std::uint64_t clusters = 0;  ///< of a file
        bool is_dir = false;
    };
    /// What the beginning and the end of a folder's cluster tell. Dates are of creation, in ticks, 0 for
    /// unknown.
    struct Edge {
        bool ends = false;             ///< nothing comes after it: it has an end mark
        std::uint32_t left_open = 0;   ///< bytes at its end, of an entry that goes on in the next cluster
        std::optional<Named> first;    ///< by its first whole entry; start 0 where that has no clusters
        std::optional<Named> last;     ///< by its last entry that has clusters
        std::int64_t first_birth = 0;  ///< of the first whole entry
        std::int64_t last_birth = 0;   ///< of the last one
    };
    virtual Edge edge(Cluster) const = 0;

    /// What two clusters say of each other: nothing; that one cannot follow the other; that an entry which
    /// begins in one fits its rest in the other, as few others would; that nothing else would.
    enum class Tie : std::uint8_t { none, contradicts, fits, certain };
    virtual Tie tie(Cluster before, Cluster after) const = 0;
    /// Can a folder go on from one cluster to the other, by no more than that nothing ties them?
    virtual bool may_follow(Cluster before, Cluster after) const = 0;

    /// The names in a folder's cluster, in their order; UTF-8.
    virtual std::vector<std::string> names_in(Cluster) const = 0;
    /// Where the folders begin that a folder's cluster names.
    virtual std::vector<Cluster> folders_named_in(Cluster) const { return {}; }
};

}  // namespace undershelf::clusters
