#pragma once
// Lost files with several entries. Some file systems leave an entry, as a deleted one, wherever a file was
// moved from: these are one content and no rivals.

#include <unordered_map>

#include "base/print.hpp"
#include "rating/claimant.hpp"

namespace undershelf {

class MovedFiles {
  public:
    /// Gives a claimant of such a volume the identity of the first one with the same start, length, birth and
    /// change.
    void identify(Claimant& c) {
        if (c.is_dir || c.origin == Origin::live || c.origin == Origin::unnamed || c.ranges.empty() ||
            c.size == 0 || c.created == unknown_rank)
            return;
        const auto same = Print()
                              .add(static_cast<std::uint64_t>(c.volume))
                              .add(c.ranges.front().offset)
                              .add(c.size)
                              .add(static_cast<std::uint64_t>(c.created))
                              .add(static_cast<std::uint64_t>(c.modified))
                              .value();
        const auto [it, fresh] = first_.emplace(same, c.identity);
        if (fresh) return;
        c.identity = it->second;
        moved_.emplace(c.id, c.identity);
    }
    /// Of an entry that was identified: its identity; else `own`.
    std::uint64_t identity_of(std::int64_t id, std::uint64_t own) const {
        const auto it = moved_.find(id);
        return it == moved_.end() ? own : it->second;
    }

  private:
    std::unordered_map<std::uint64_t, std::uint64_t> first_;  ///< identities, by what is the same
    std::unordered_map<std::int64_t, std::uint64_t> moved_;   ///< by entry
};

}  // namespace undershelf
