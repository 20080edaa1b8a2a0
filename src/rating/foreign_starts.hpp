#pragma once
// Whose recorded start lies within a content that only a fair check holds: padding and silence swallow
// foreign clusters, and such a check does not notice.

#include <algorithm>
#include <functional>
#include <optional>
#include <unordered_map>
#include <vector>

#include "rating/claimant.hpp"
#include "rating/guesses.hpp"

namespace undershelf {

class ForeignStarts {
  public:
    /// Any entry; what is not lost, has no name or no bytes counts for nothing. `fair`: it passed a check
    /// that is no better, over a layout that is assumed behind its first `recorded` bytes.
    void add(const Claimant& c, bool fair, std::uint64_t recorded) {
        if (c.is_dir || c.ranges.empty() || c.origin == Origin::unnamed || c.origin == Origin::live) return;
        starts_.push_back({c.ranges.front().offset, c.identity, c.id});
        if (fair && total_length(c.ranges) > recorded)
            passes_.push_back({c.identity, c.id, recorded, c.ranges});
    }
    /// Of the contents that passed so, by identity: the entry that begins within it. `look` says whether what
    /// is at an entry's start agrees with its name.
    std::unordered_map<std::uint64_t, std::int64_t> settle(const StartLook& look);

  private:
    struct Start {
        std::uint64_t place, identity;
        std::int64_t entry;
    };
    struct Pass {
        std::uint64_t identity;
        std::int64_t entry;
        std::uint64_t recorded;
        std::vector<ByteRange> ranges;
    };
    std::optional<std::int64_t> within(const Pass& pass, const StartLook& look) const;

    std::vector<Start> starts_;
    std::vector<Pass> passes_;
};

}  // namespace undershelf
