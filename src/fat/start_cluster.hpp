#pragma once
// Where a deleted FAT32 entry started, when the system that deleted it cleared the high half of its start
// cluster.

#include <set>
#include <vector>

#include "fat/directory.hpp"
#include "volume/model.hpp"

namespace undershelf::fat {

struct ArguedStart {
    Cluster cluster = 0;       ///< the best candidate
    std::uint64_t rivals = 1;  ///< candidates that are as good or nearly so, itself included
    bool rebuilt = false;      ///< it is not what the slot says
};

class StartFinder {
  public:
    StartFinder(const Source& source, const Table& table);

    /// What an erased slot with or without a high half tells of the system that deleted it.
    void learn(const DirEntry& erased);
    /// A live file or folder starts here: do starts on this volume have high halves at all?
    void learn_live(Cluster start) { ++(start < 65536 ? live_low_ : live_high_); }
    /// A place where a live or deleted file written at `ticks` starts.
    void add_neighbour(std::int64_t ticks, Cluster start);
    void settle_neighbours();

    /// All clusters the slot may mean: just its own, or every low + k * 65536 inside the volume.
    std::vector<Cluster> candidates(const DirEntry& erased) const;
    /// The start of a deleted file. What is recorded counts, but where it fails (it is no cluster, or in use
    /// now, or holds zeros or another format, or other data follow on its end) and the volume speaks for
    /// cleared high halves. Then by evidence: the cluster is free now, its first bytes agree with the
    /// extension, the file ends as files end, files written at about the same time start near it.
    ArguedStart find_file(const DirEntry& erased, const Entry& entry) const;

  private:
    /// All but its content.
    double weigh(Cluster candidate, Cluster own, const Entry& entry) const;
    /// True where live files have high halves, deleted ones have none, and chance would hardly bring that
    /// about.
    bool speaks_for_cleared() const;
    /// Does what is at the recorded start speak against it?
    bool fails(Cluster own, double content, const Entry& entry) const;
    double weigh_content(Cluster candidate, const Entry& entry) const;
    double weigh_neighbours(Cluster candidate, std::int64_t written) const;

    const Source& source_;
    const Table& table_;
    std::uint64_t erased_ = 0, erased_high_ = 0, live_low_ = 0, live_high_ = 0;
    std::set<Cluster> told_;  ///< starts that erased slots name themselves
    struct Neighbour {
        std::int64_t ticks;
        Cluster start;
    };
    std::vector<Neighbour> neighbours_;
};

}  // namespace undershelf::fat
