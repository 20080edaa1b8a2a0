#include "rating/claimant.hpp"

#include <algorithm>

namespace undershelf {

std::uint64_t recorded_bytes(Layout layout, const VolumeTraits& traits) {
    return layout == Layout::assumed ? traits.cluster_size : ~0ull;
}

Life life_of(const VolumeTraits& traits, bool deleted_before) {
    if (traits.former == 0) return present_life;
    return static_cast<Life>(present_life - 2 * traits.former + !deleted_before);
}

void append_claims(const Claimant& c, const VolumeTraits& traits, std::vector<Claim>& out) {
    Standing standing{Hold::recorded, traits.date_resolution, c.rank, life_of(traits, c.deleted_before)};
    if (c.verified) standing.hold = Hold::verified;
    if (c.origin == Origin::live) standing.hold = Hold::live;
    std::uint64_t recorded =
        c.origin == Origin::live || c.verified ? ~0ull : recorded_bytes(c.layout, traits);
    bool start = c.origin != Origin::live;
    for (const auto& range : c.ranges) {
        const ByteRange first{range.offset, std::min(range.length, recorded)};
        const ByteRange rest{range.offset + first.length, range.length - first.length};
        recorded -= first.length;
        if (!first.empty()) out.push_back({first, c.identity, c.id, standing, start});
        start = false;
        if (rest.empty()) continue;
        auto guessed = standing;
        guessed.hold = c.steps_over_lost ? Hold::doubted : Hold::guessed;
        out.push_back({rest, c.identity, c.id, guessed, false});
    }
}

}  // namespace undershelf
