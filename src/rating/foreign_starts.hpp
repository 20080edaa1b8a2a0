#pragma once
// Whose recorded start lies within a content that only a fair check holds: padding and silence swallow
// foreign clusters, and such a check does not notice.

#include <optional>
#include <vector>

#include "rating/claimant.hpp"
#include "rating/guesses.hpp"

namespace undershelf {

class ForeignStarts {
  public:
    /// Any entry. What is not lost, has no name or no bytes counts for nothing.
    void add(const Claimant& c);
    /// Once all are added.
    void settle();
    /// The entry that begins within the part of a content that is only assumed: after its first `recorded`
    /// bytes. `look` says whether what is at an entry's start agrees with its name.
    std::optional<std::int64_t> within(const Claimant& content, std::uint64_t recorded,
                                       const StartLook& look) const;

  private:
    struct Start {
        std::uint64_t place, identity;
        std::int64_t entry;
    };
    std::vector<Start> starts_;  ///< ascending by place
};

}  // namespace undershelf
