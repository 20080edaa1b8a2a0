#pragma once
// Files that were open at once: each wrote a run of clusters in its turn, and what all of them wrote fills a
// stretch in ascending order. The recorded starts and lengths leave few ways to deal the stretch out.

#include <functional>
#include <vector>

#include "mend/alone.hpp"

namespace undershelf {

/// A file whose first cluster and length are recorded, and nothing else.
struct DealtFile {
    std::uint64_t start = 0;         ///< of its first cluster, in the source
    std::uint64_t size = 0;          ///< bytes; more than 0
    const Format* format = nullptr;  ///< that a check finds it to be; null where nothing checks it
    bool holds_anyhow = false;  ///< its check holds as well where others begin within it: it does not tell
};

/// One of the files, as it was dealt.
struct DealtContent {
    std::vector<ByteRange> ranges;  ///< in the source, in its order; none where nothing is known of it
    std::optional<Check> check;     ///< of these; nothing where nothing checks it
    /// Does it hold to exactly its length?
    bool holds() const;
    /// By a check that a wrong cluster would hardly pass?
    bool proven() const;
};

struct DealtHand {
    std::vector<DealtContent> contents;  ///< beside the files
    std::uint64_t proven = 0;            ///< of those that lie in several pieces
    std::uint64_t telling = 0;           ///< the same, and those that hold so alone, if by a weak check
    std::uint64_t close = 1;  ///< ways by which some file held up to its last cluster, this one with them
};

/// Files that take part in each other's stretches: from the first one's start on every free cluster is of one
/// of them, until all have their length. Numbers into `files`, which are ascending by start, no two with the
/// same one. Files that the space does not suffice for, and stretches with too many of them, are left out.
std::vector<std::vector<std::size_t>> files_in_turns(const std::vector<DealtFile>& files,
                                                     const FreeClusters& free);

/// Deals a stretch out among the files that are in it, by those rules that writers follow: runs of one length
/// for each, or first a run and then the rest. Taken is the first way by which a file with a check that is
/// fair at least holds in several pieces, and no other one fails; else those alone that a strong check proves
/// so. Where there is neither, and all may have been written at one time (`together`), the first way by which
/// none fails: one that a weak check tells from others, or else the most usual one. One file alone has but
/// one way. Returns nothing if no way fits within the limits.
std::optional<DealtHand> deal_out(const std::vector<DealtFile>& files, const FreeClusters& free,
                                  const CheckRanges& check, bool together, const MendLimits& limits,
                                  const std::function<bool()>& stopped, MendCost& cost);

}  // namespace undershelf
