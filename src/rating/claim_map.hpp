#pragma once
// Who has which bytes of the source: claims of live files, of the file system itself and of lost files,
// compared over the whole source, so that claims of different volumes on the same bytes meet too.

#include <cstdint>
#include <limits>
#include <span>
#include <vector>

#include "base/byte_range.hpp"
#include "base/progress.hpp"

namespace undershelf {

/// When bytes came to their owner: live content has them now, lost content by the ticks of its last writing.
using ClaimRank = std::int64_t;
constexpr ClaimRank live_rank = std::numeric_limits<ClaimRank>::max();
constexpr ClaimRank unknown_rank = std::numeric_limits<ClaimRank>::min();

struct Claim {
    ByteRange range;
    std::uint64_t identity = 0;  ///< the same for all names of one content
    std::int64_t entry = 0;      ///< id in the shelf; 0: the file system itself, or nobody that is listed
    ClaimRank rank = unknown_rank;
};

/// Bytes of a lost entry that somebody else has, or may have.
struct Loss {
    ByteRange range;
    std::int64_t entry = 0;
    bool contested = false;  ///< both were written at the same time as far as anybody knows
};

/// Built once from all claims; afterwards every byte has at most one owner: the claim of highest rank.
/// Building takes n log n, a question log n plus the owners it meets.
class ClaimMap {
  public:
    /// Ends early, with nothing that can be asked, once `progress` says so.
    explicit ClaimMap(std::vector<Claim> claims, const Progress& progress = Progress());

    /// What of `range` does not belong to `identity`, whose own rank is `rank`. Ascending, neighbours of one
    /// owner joined. Looks at no more than `looks` cells, which it counts down; what is behind counts as
    /// contested.
    std::vector<Loss> losses(const ByteRange& range, std::uint64_t identity, ClaimRank rank,
                             std::uint64_t& looks) const;
    std::vector<Loss> losses(const ByteRange& range, std::uint64_t identity, ClaimRank rank) const {
        std::uint64_t unlimited = ~0ull;
        return losses(range, identity, rank, unlimited);
    }
    /// Stretches of the source between the ends of claims.
    std::size_t cells() const { return owner_.size(); }
    std::size_t claims() const { return claims_.size(); }

  private:
    using Index = std::uint32_t;
    static constexpr Index nobody = std::numeric_limits<Index>::max();

    Index cell_at(std::uint64_t offset) const;
    void sort(const Progress& progress);
    void paint(const Progress& progress);
    void mark_contests(std::size_t from, std::size_t to);

    std::vector<Claim> claims_;          ///< highest rank first
    std::vector<std::uint64_t> bounds_;  ///< cell i reaches from bounds_[i] to bounds_[i + 1]
    std::vector<Index> owner_;           ///< of each cell, an index of claims_
    std::vector<bool> contested_;        ///< of each cell
};

}  // namespace undershelf
