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

/// How firmly somebody holds bytes.
enum class Hold : std::uint8_t {
    doubted,   ///< by a guess that builds on another one, or goes on through somebody's start
    guessed,   ///< by a layout that is assumed
    recorded,  ///< by metadata that says so
    proven,    ///< by metadata that says so, and what is there fits it
    verified,  ///< by a content that was read to its end and holds
    live,      ///< has them now
};

/// Which life of the source a claim is from: what a present volume holds or held came after all that former
/// ones did, and of these the later ones after the earlier ones.
using Life = std::uint16_t;
constexpr Life present_life = std::numeric_limits<Life>::max();
/// Of former volumes even numbers are those of what they held to their end, and so all at a time; odd ones,
/// one below, of what they had lost before.
constexpr bool was_kept(Life life) {
    return life % 2 == 0;
}

/// What a claim is worth against others on the same bytes.
struct Standing {
    Hold hold = Hold::recorded;
    std::int32_t resolution = 0;  ///< ticks; dates that lie no further apart have no order
    ClaimRank rank = unknown_rank;
    Life life = present_life;

    /// Was this one written after `other` for certain? By their lives, then by dates; an unknown date is
    /// earlier than any.
    bool later_than(const Standing& other) const;
};

struct Claim {
    ByteRange range;
    std::uint64_t identity = 0;  ///< the same for all names of one content
    std::int64_t entry = 0;      ///< id in the shelf; 0: the file system itself, or nobody that is listed
    Standing standing;
    bool start = false;  ///< the content begins with these bytes
};

/// What a claim on bytes comes to where another one is on them as well.
enum class Verdict : std::uint8_t {
    holds,
    contested,  ///< nothing tells which of the two has them
    lost,
};

/// What `claim` comes to where `other` has the same bytes and is no lower. A guess never beats a record,
/// whatever its date: it is lost to one that was written with it or after it, since either it took other
/// bytes or they were written over; with an older record it shares the doubt. A doubted
/// guess is no match for anything else.
Verdict against(const Standing& claim, const Standing& other);

/// Bytes of a lost entry that somebody else has, or may have.
struct Loss {
    ByteRange range;
    std::int64_t entry = 0;
    bool contested = false;  ///< nothing tells which of the two has them
};

/// Built once from all claims; afterwards every byte has at most one owner: the claim of highest standing.
/// Building takes n log n, a question log n plus the owners it meets.
class ClaimMap {
  public:
    /// Ends early, with nothing that can be asked, once `progress` says so.
    explicit ClaimMap(std::vector<Claim> claims, const Progress& progress = Progress());

    /// What of `range` does not belong to `identity`, whose claim on it has this standing. Ascending,
    /// neighbours of one owner joined. Looks at no more than `looks` cells, which it counts down; what is
    /// after counts as contested.
    std::vector<Loss> losses(const ByteRange& range, std::uint64_t identity, const Standing& standing,
                             std::uint64_t& looks) const;
    std::vector<Loss> losses(const ByteRange& range, std::uint64_t identity, const Standing& standing) const {
        std::uint64_t unlimited = ~0ull;
        return losses(range, identity, standing, unlimited);
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
    void mark_contests(const Progress& progress);

    std::vector<Claim> claims_;          ///< highest standing first
    std::vector<std::uint64_t> bounds_;  ///< cell i reaches from bounds_[i] to bounds_[i + 1]
    std::vector<Index> owner_;           ///< of each cell, an index of claims_
    std::vector<bool> contested_;        ///< of each cell: its owner is not sure of it
};

}  // namespace undershelf
