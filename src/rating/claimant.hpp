#pragma once
// Who claims bytes, and with what word: from an entry's layout to claims.

#include <algorithm>
#include <string>
#include <vector>

#include "rating/claim_map.hpp"
#include "volume/model.hpp"

namespace undershelf {

/// What the rating must know of a volume.
struct VolumeTraits {
    std::uint64_t size = 0;            ///< bytes
    std::uint32_t cluster_size = 0;    ///< bytes
    std::int32_t date_resolution = 0;  ///< ticks; dates no further apart have no order
    std::uint16_t former = 0;          ///< of a former volume: how many lives it was before the present one
};

/// The life that a volume's entry is from; what was deleted before the volume was given up comes before what
/// was not.
Life life_of(const VolumeTraits& traits, bool deleted_before);

/// What every question about an entry goes by.
struct RatedEntry {
    std::int64_t id = 0;
    int volume = 0;
    std::uint64_t identity = 0;  ///< the same for all names and streams of one content
    Origin origin = Origin::live;
    Layout layout = Layout::none;
    bool is_dir = false;
    std::uint64_t size = 0;  ///< bytes
    std::string ext;
    ClaimRank rank = unknown_rank;
};

/// An entry with bytes of the source.
struct Claimant : RatedEntry {
    bool verified = false;      ///< its content holds to its end
    bool strong = false;        ///< by a strong check
    bool fails_weakly = false;  ///< a weak check found that it does not hold
    bool holds = false;         ///< to an end that its structure tells, by whichever check
    bool mended = false;  ///< laid out by its own content or its neighbours', not as it was taken to lie
    bool contradicted = false;     ///< begins like another format than its name promises
    bool cut_off = false;          ///< of no name, and its end is not known though its format has one
    bool steps_over_lost = false;  ///< its guessed layout builds on that of other lost files
    bool chained = false;          ///< guessed, of a file that its driver kept a chain for
    bool deleted_before = false;   ///< of a former volume, and deleted while that was there
    std::int64_t created = unknown_rank, modified = unknown_rank;  ///< ticks
    std::vector<ByteRange> ranges;                                 ///< in the order of its content

    /// Ticks of its last writing, of a live one, too.
    std::int64_t written() const { return std::max(created, modified); }
};

/// Of a file whose layout is assumed the first cluster is recorded, and all after it is guessed: this many
/// bytes of an entry's content are where its metadata says.
std::uint64_t recorded_bytes(Layout layout, const VolumeTraits& traits);

/// Appends the claims of an entry, in the order of its content.
void append_claims(const Claimant& claimant, const VolumeTraits& traits, std::vector<Claim>& out);

}  // namespace undershelf
