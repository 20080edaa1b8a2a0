#include "rating/claim_map.hpp"

#include <algorithm>
#include <numeric>
#include <tuple>

namespace undershelf {

namespace {
struct Stopped {};

/// An order that looks now and then whether the work should end: sorting cannot be told so otherwise.
template <class Less>
auto stoppable(const Progress& progress, const Less& less) {
    return [&progress, less, calls = std::uint64_t{0}](const auto& a, const auto& b) mutable {
        if (++calls % (1 << 20) == 0 && progress.stopped()) throw Stopped();
        return less(a, b);
    };
}

/// Higher ones have bytes before lower ones.
bool stands_higher(const Standing& a, const Standing& b) {
    return std::tie(a.hold, a.life, a.rank) > std::tie(b.hold, b.life, b.rank);
}

}  // namespace

bool Standing::later_than(const Standing& other) const {
    if (life != other.life) return life > other.life;
    if (rank <= other.rank) return false;
    if (other.rank == unknown_rank || rank == live_rank) return true;
    return rank - other.rank > std::max(resolution, other.resolution);
}

Verdict against(const Standing& claim, const Standing& other) {
    if (other.hold == Hold::live) return Verdict::lost;
    if (other.hold < claim.hold) return Verdict::holds;
    // Somebody else's bytes there would have shown.
    if (other.hold == Hold::verified && claim.hold != Hold::verified) return Verdict::lost;
    if (claim.hold == Hold::doubted && other.hold != Hold::doubted) return Verdict::lost;
    if (claim.hold == Hold::guessed && other.hold != Hold::guessed) {
        const bool older_record = other.hold == Hold::recorded && claim.later_than(other);
        return older_record ? Verdict::contested : Verdict::lost;
    }
    if (other.later_than(claim)) return Verdict::lost;
    if (!claim.later_than(other)) return Verdict::contested;
    // A later record against an older one whose content seems to be there still.
    return other.hold > claim.hold ? Verdict::contested : Verdict::holds;
}

namespace {
/// May a claim that did not get the bytes cast doubt on the one that did?
bool casts_doubt(const Standing& claim, const Standing& owner) {
    return against(claim, owner) == Verdict::contested;
}
}  // namespace

ClaimMap::ClaimMap(std::vector<Claim> claims, const Progress& progress) : claims_(std::move(claims)) {
    std::erase_if(claims_, [](const Claim& c) { return c.range.empty() || c.range.end() < c.range.offset; });
    try {
        sort(progress);
        if (!bounds_.empty()) paint(progress);
    } catch (const Stopped&) {
        claims_.clear();
        bounds_.clear();
        owner_.clear();
    }
}

void ClaimMap::sort(const Progress& progress) {
    std::stable_sort(claims_.begin(), claims_.end(), stoppable(progress, [](const Claim& a, const Claim& b) {
                         return stands_higher(a.standing, b.standing);
                     }));
    bounds_.reserve(claims_.size() * 2);
    for (const auto& c : claims_) {
        bounds_.push_back(c.range.offset);
        bounds_.push_back(c.range.end());
    }
    std::sort(bounds_.begin(), bounds_.end(), stoppable(progress, std::less<>()));
    bounds_.erase(std::unique(bounds_.begin(), bounds_.end()), bounds_.end());
}

ClaimMap::Index ClaimMap::cell_at(std::uint64_t offset) const {
    return static_cast<Index>(std::lower_bound(bounds_.begin(), bounds_.end(), offset) - bounds_.begin());
}

/// Paints the cells in order of rank, each only once: `free_from` leads past cells that are painted (a
/// union-find forest), so the whole takes about as many steps as there are cells.
void ClaimMap::paint(const Progress& progress) {
    const auto cells = bounds_.size() - 1;
    owner_.assign(cells, nobody);
    contested_.assign(cells, false);
    std::vector<Index> free_from(cells + 1);
    std::iota(free_from.begin(), free_from.end(), Index{0});
    const auto find = [&](Index c) {
        while (free_from[c] != c) {
            free_from[c] = free_from[free_from[c]];
            c = free_from[c];
        }
        return c;
    };
    for (std::size_t i = 0; i < claims_.size(); ++i) {
        if (i % (1 << 16) == 0 && progress.stopped()) throw Stopped();
        const auto end = cell_at(claims_[i].range.end());
        for (auto c = find(cell_at(claims_[i].range.offset)); c < end; c = find(c)) {
            owner_[c] = static_cast<Index>(i);
            free_from[c] = c + 1;
        }
    }
    mark_contests(progress);
}

void ClaimMap::mark_contests(const Progress& progress) {
    // A volume made to annoy could have every claim overlap every other; then some contests go unmarked.
    std::uint64_t looks = 16 * owner_.size() + 1024;
    for (std::size_t i = 0; i < claims_.size() && looks > 0; ++i) {
        if (i % (1 << 16) == 0 && progress.stopped()) throw Stopped();
        const auto& claim = claims_[i];
        if (claim.standing.hold == Hold::live) continue;
        const auto end = cell_at(claim.range.end());
        for (auto c = cell_at(claim.range.offset); c < end && looks > 0; ++c, --looks) {
            const auto& owner = claims_[owner_[c]];
            if (owner.identity != claim.identity && casts_doubt(claim.standing, owner.standing))
                contested_[c] = true;
        }
    }
}

std::vector<Loss> ClaimMap::losses(const ByteRange& range, std::uint64_t identity, const Standing& standing,
                                   std::uint64_t& looks) const {
    std::vector<Loss> out;
    if (owner_.empty() || range.empty()) return out;
    auto cell = std::upper_bound(bounds_.begin(), bounds_.end(), range.offset) - bounds_.begin();
    if (cell > 0) --cell;
    for (auto c = static_cast<std::size_t>(cell); c < owner_.size() && bounds_[c] < range.end(); ++c) {
        if (looks == 0) {
            const auto from = std::max(bounds_[c], range.offset);
            out.push_back({{from, range.end() - from}, 0, true});
            break;
        }
        --looks;
        if (owner_[c] == nobody) continue;
        const auto& owner = claims_[owner_[c]];
        const bool own = owner.identity == identity;
        const auto verdict = !own            ? against(standing, owner.standing)
                             : contested_[c] ? Verdict::contested
                                             : Verdict::holds;
        if (verdict == Verdict::holds) continue;
        const auto part = overlap(range, {bounds_[c], bounds_[c + 1] - bounds_[c]});
        if (!part) continue;
        const Loss loss{*part, own ? 0 : owner.entry, verdict == Verdict::contested};
        if (!out.empty() && out.back().entry == loss.entry && out.back().contested == loss.contested &&
            out.back().range.end() == part->offset) {
            out.back().range.length += part->length;
        } else {
            out.push_back(loss);
        }
    }
    return out;
}

}  // namespace undershelf
