#pragma once
// From evidence to chance, share left and grade. docs/rating.md explains the model.

#include <map>
#include <string>
#include <unordered_map>
#include <vector>

#include "content/format.hpp"
#include "rating/claimant.hpp"
#include "rating/content_check.hpp"
#include "rating/early_ends.hpp"
#include "rating/emptied.hpp"
#include "rating/kind_habits.hpp"
#include "rating/later_use.hpp"
#include "rating/siblings.hpp"
#include "rating/slack.hpp"
#include "rating/whole_finds.hpp"
#include "source/source.hpp"
#include "volume/content_stream.hpp"

namespace undershelf {

struct Rating {
    double chance = 0;  ///< that the exported bytes equal the original file exactly
    double left = 0;    ///< expected share of the original bytes that is still there
    Grade grade = Grade::none;
    bool operator==(const Rating&) const = default;
};

/// What a check of a content to its end came to.
struct CheckedContent {
    Strength strength = Strength::none;
    bool complete = false;
    std::uint64_t holds_to = 0;  ///< bytes

    /// Is a content of this size proven? It ends whole where its size says, by a check that says more than
    /// where it ends, its end is its own, and it was hardly luck.
    bool proves(std::uint64_t size, const std::vector<Evidence>& evidence) const {
        constexpr double most_luck = 0.1;
        return complete && strength >= Strength::fair && holds_to == size &&
               !has_fact(evidence, Fact::loose_end) && luck(evidence) < most_luck;
    }
    /// Of a content that was mended: the probability that one of the wrong layouts that nearly held passes.
    double luck(const std::vector<Evidence>& evidence) const;
};

/// What of an entry the rating looks at.
struct Subject : RatedEntry {
    /// The extension was made from the content: that they agree says nothing.
    bool ext_made_up = false;
    std::int64_t deleted = unknown_rank;  ///< ticks
    std::vector<Piece> pieces;
    std::vector<Evidence> evidence;
    std::optional<CheckedContent> check;
    bool passed() const { return check && check->proves(size, evidence); }
};

/// The rank of an entry's claims: live, or the ticks of its last writing, or, on volumes that number their
/// files and keep no time, that number.
ClaimRank claim_rank(const Entry& entry);
/// The same for all names and streams of one content on one volume.
std::uint64_t content_identity(int volume, const EntryKey& key);

/// Rates by metadata alone, before claims of others are known. Enough for live files on a healthy source.
Rating rate_alone(const Entry& entry);

/// What the rating knows of the whole source.
struct Surroundings {
    const ClaimMap& claims;
    const std::map<int, VolumeTraits>& volumes;
    const LaterUse& later_use;
    const KindHabits& kinds;
    /// Lost files whose guessed layout is in doubt, with the entry each may have been written in turns with.
    const std::unordered_map<std::uint64_t, std::int64_t>& in_turns;
    Siblings& siblings;
    Emptied& emptied;
    SlackHabits& slack;
    const WholeFinds& whole_finds;
    const EarlyEnds& early_ends;
    /// Contents that a fair check holds, with the entry that begins within each.
    const std::unordered_map<std::uint64_t, std::int64_t>& foreign_starts;
};

/// Rates entries one by one once all claims are known.
class Rater {
  public:
    Rater(const Source& source, const Surroundings& around);
    /// Replaces the subject's rating evidence and gives each piece of evidence its effect.
    Rating rate(Subject& subject);

  private:
    struct Balance;
    LaterUse::Share later_use_of(const Subject& s) const;
    VolumeTraits traits_of(const Subject& s) const;
    void weigh_metadata(Subject& s, Balance& b) const;
    void weigh_kind(Subject& s, Balance& b) const;
    void weigh_turns(Subject& s, Balance& b) const;
    void weigh_claims(Subject& s, Balance& b);
    void weigh_unreadable(Subject& s, Balance& b) const;
    void weigh_content(Subject& s, Balance& b);
    void weigh_check(Subject& s, Balance& b) const;
    void weigh_foreign_start(Subject& s) const;
    void weigh_early_end(Subject& s, Balance& b) const;
    void weigh_unnamed(Subject& s, Balance& b) const;
    static void weigh_fact(Evidence& e, Balance& b);
    void weigh_zeros(Subject& s, Balance& b, const ContentLook& seen);
    static void weigh_first_bytes(Subject& s, Balance& b, const ContentLook& seen);
    void weigh_siblings(Subject& s, Balance& b, ContentStream& stream);
    void weigh_slack(Subject& s, Balance& b);

    const Source& source_;
    Surroundings around_;
    RangeSet unreadable_;
    /// How many stretches of other claims may still be looked at, and how many bytes of contents: volumes
    /// whose lost entries all claim everything would have each compared with all.
    std::uint64_t looks_, content_bytes_;
};

}  // namespace undershelf
