#pragma once
// Volumes that no map and no usual place leads to: every sector of a source is asked whether it may be a head
// of one, or a copy of a head, and those that are best supported by what they point to are taken.

#include <unordered_map>

#include "base/progress.hpp"
#include "volume/file_system.hpp"

namespace undershelf {

/// A sector that may be a head, or the beginning of a table, and a print of its bytes.
struct HeadTrace {
    std::uint64_t offset = 0;  ///< in the source
    std::uint64_t print = 0;
    bool table = false;
    bool operator==(const HeadTrace&) const = default;
};

/// The heads that start in the owned part of a buffer, ascending. A pure function: many buffers can be looked
/// through at the same time.
std::vector<HeadTrace> find_heads(const SweepBuffer& buffer,
                                  const std::vector<const FileSystem*>& file_systems);

/// Collects heads within bounds: a source made to annoy is all heads.
class HeadList {
  public:
    /// False when it found no room.
    bool add(const HeadTrace& head);
    const std::vector<HeadTrace>& heads() const { return heads_; }
    /// Heads that found no room any more.
    std::uint64_t left_out() const { return left_out_; }
    /// Goes on from a list that has left so many out.
    void set_left_out(std::uint64_t heads) { left_out_ = heads; }

  private:
    std::vector<HeadTrace> heads_;
    std::unordered_map<std::uint64_t, unsigned> alike_;  ///< by their prints
    std::uint64_t left_out_ = 0;
};

/// Volumes that heads speak for, best supported first; none overlaps another one or what is `taken` already.
/// Heads that are in taken space are passed over: there they are content, or older than what is there now.
struct LostVolumes {
    std::vector<Recognition> volumes;
    std::vector<std::string> remarks;  ///< sentences on what was passed over, and why
};
LostVolumes volumes_at_heads(const Source& source, const std::vector<const FileSystem*>& file_systems,
                             const std::vector<HeadTrace>& heads, const RangeSet& taken,
                             const ReadOptions& options, const Progress& progress);

}  // namespace undershelf
