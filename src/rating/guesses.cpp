#include "rating/guesses.hpp"

#include <algorithm>
#include <optional>

namespace undershelf {

namespace {

class Settler {
  public:
    Settler(std::vector<Claim>& claims, const StartLook& look) : claims_(claims), look_(look) {
        for (std::size_t i = 0; i < claims.size(); ++i) {
            if (claims[i].start && claims[i].standing.hold == Hold::recorded) starts_.push_back(i);
        }
        std::sort(starts_.begin(), starts_.end(), [&](std::size_t a, std::size_t b) {
            return claims[a].range.offset < claims[b].range.offset;
        });
        looks_left_ = 64 * starts_.size() + 1024;
    }

    /// Goes through the starts that the guesses of one entry run into; its claims are `from` to `to`.
    void settle(std::size_t from, std::size_t to) {
        if (std::none_of(claims_.begin() + from, claims_.begin() + to,
                         [](const Claim& c) { return c.standing.hold == Hold::guessed && !c.start; }))
            return;
        one_run_end_ = claims_[from].range.offset;
        for (auto i = from; i < to; ++i) one_run_end_ += claims_[i].range.length;
        doubted_behind_.reset();
        for (auto i = from; i < to; ++i) {
            auto& claim = claims_[i];
            if (claim.standing.hold != Hold::guessed || claim.start) continue;
            if (doubted_behind_) claim.standing.hold = Hold::doubted;
            const auto end = end_of(i);
            if (end) {
                claim.range.length = *end - claim.range.offset;
                for (auto rest = i + 1; rest < to; ++rest) claims_[rest].range.length = 0;
            }
            if (doubted_behind_) split(claim, *doubted_behind_);
            if (end) return;
        }
    }

    /// What was split off from claims belongs to them.
    void finish() { claims_.insert(claims_.end(), tails_.begin(), tails_.end()); }

    std::unordered_map<std::uint64_t, std::int64_t> in_turns;

  private:
    /// Where a guessed claim ends early, if it does.
    std::optional<std::uint64_t> end_of(std::size_t guess) {
        const auto range = claims_[guess].range;
        auto it =
            std::lower_bound(starts_.begin(), starts_.end(), range.offset,
                             [&](std::size_t i, std::uint64_t at) { return claims_[i].range.offset < at; });
        for (; it != starts_.end() && claims_[*it].range.offset < range.end() && looks_left_ > 0; ++it) {
            --looks_left_;
            if (claims_[*it].identity != claims_[guess].identity && ends_at(guess, *it))
                return claims_[*it].range.offset;
        }
        return std::nullopt;
    }

    /// Does the guess end where the other's start is?
    bool ends_at(std::size_t guess, std::size_t start) {
        const auto seen = agreement(start);
        auto& other = claims_[start].standing;
        const auto& own = claims_[guess].standing;
        if (seen == Agreement::contradicts) {
            other.hold = Hold::guessed;
            return false;
        }
        if (seen == Agreement::agrees) other.hold = Hold::proven;
        const bool same_age = !own.later_than(other) && !other.later_than(own);
        // A guess that steps over clusters, and would not get there otherwise, may have stepped without need.
        const bool gets_there = one_run_end_ > claims_[start].range.offset;
        if (same_age && gets_there && is_guessed_behind(start))
            in_turns.emplace(claims_[start].identity, claims_[guess].entry);
        // What was there at the same time did not lie in the same bytes, whichever was written first.
        const bool both_kept = own.life == other.life && was_kept(own.life);
        if (other.hold == Hold::proven || both_kept || !own.later_than(other)) return true;
        if (!doubted_behind_) doubted_behind_ = claims_[start].range.end();
        return false;
    }

    /// What of a guessed claim lies after `place` is doubted.
    void split(Claim& claim, std::uint64_t place) {
        if (claim.standing.hold != Hold::guessed || place >= claim.range.end()) return;
        auto tail = claim;
        tail.standing.hold = Hold::doubted;
        tail.range = {place, claim.range.end() - place};
        claim.range.length = place - claim.range.offset;
        tails_.push_back(tail);
    }

    Agreement agreement(std::size_t start) {
        const auto [it, fresh] = seen_.emplace(start, Agreement::unknown);
        if (fresh) it->second = look_(claims_[start].entry);
        return it->second;
    }

    bool is_guessed_behind(std::size_t start) const {
        return start + 1 < claims_.size() && claims_[start + 1].entry == claims_[start].entry &&
               claims_[start + 1].standing.hold == Hold::guessed;
    }

    std::vector<Claim>& claims_;
    const StartLook& look_;
    std::vector<std::size_t> starts_;  ///< ascending by place
    std::unordered_map<std::size_t, Agreement> seen_;
    std::uint64_t looks_left_ = 0;
    std::vector<Claim> tails_;
    std::optional<std::uint64_t> doubted_behind_;  ///< of the entry that is gone through
    std::uint64_t one_run_end_ = 0;  ///< of the entry that is gone through, if it lay in one run
};

}  // namespace

std::unordered_map<std::uint64_t, std::int64_t> settle_guesses(std::vector<Claim>& claims,
                                                               const StartLook& look,
                                                               const Progress& progress) {
    if (std::none_of(claims.begin(), claims.end(),
                     [](const Claim& c) { return c.standing.hold == Hold::guessed; }))
        return {};
    Settler settling(claims, look);
    for (std::size_t from = 0, to = 0; from < claims.size() && !progress.stopped(); from = to) {
        while (to < claims.size() && claims[to].entry == claims[from].entry) ++to;
        settling.settle(from, to);
    }
    settling.finish();
    return std::move(settling.in_turns);
}

}  // namespace undershelf
