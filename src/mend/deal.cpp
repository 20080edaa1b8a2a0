#include "mend/deal.hpp"

#include <algorithm>
#include <iterator>
#include <numeric>
#include <set>

#include "base/mix.hpp"

namespace undershelf {

namespace {

constexpr std::size_t most_open = 8;
constexpr std::uint64_t longest_stretch = 1 << 20;  ///< clusters

std::uint64_t clusters_of(const DealtFile& file, std::uint32_t step) {
    return file.size / step + (file.size % step != 0);
}

/// How those that are open go on after their first runs.
enum class Way : std::uint8_t {
    own,   ///< each in runs of its own length
    same,  ///< all in runs of one length
    rest,  ///< each with all that is left of it
};

/// Deals by one rule.
class Dealer {
  public:
    Dealer(const std::vector<DealtFile>& files, const FreeClusters& free) : files_(files), free_(free) {}

    /// `run`: clusters, of those whose first run no start of another one ends. The first `at_once` files were
    /// opened one after the other, before any had a second turn. False where the rule does not fit the
    /// starts.
    bool deal(Way way, std::uint64_t run, std::size_t at_once) {
        way_ = way;
        run_ = run;
        at_once_ = at_once;
        const auto n = files_.size();
        dealt_.assign(n, {});
        left_.resize(n);
        for (std::size_t i = 0; i < n; ++i) left_[i] = clusters_of(files_[i], free_.step());
        runs_.assign(n, 0);
        first_turn_.assign(n, true);
        order_.clear();
        given_ = 0;
        auto all = std::accumulate(left_.begin(), left_.end(), std::uint64_t{0});
        for (std::optional<std::uint64_t> at = files_.front().start; all > 0; at = free_.after(*at), --all) {
            if (!at || !turn_at(*at)) return false;
            const auto who = order_[now_];
            dealt_[who].push_back(*at);
            --left_[who];
            ++given_;
        }
        return true;
    }

    const std::vector<std::vector<std::uint64_t>>& dealt() const { return dealt_; }
    /// How long the first runs of those are that the next one's start ended.
    std::vector<std::uint64_t> known_runs() const {
        std::vector<std::uint64_t> out;
        std::copy_if(runs_.begin(), runs_.end(), std::back_inserter(out), [](auto r) { return r > 0; });
        return out;
    }

  private:
    /// Whose turn is it at this cluster? False where there is nobody.
    bool turn_at(std::uint64_t at) {
        const auto next = order_.size();
        if (next < files_.size() && files_[next].start == at) return open(next);
        if (order_.empty()) return false;
        const auto who = order_[now_];
        if (left_[who] > 0 && given_ < turn_of(who)) return true;
        first_turn_[who] = false;
        for (std::size_t i = 0; i < order_.size(); ++i) {
            now_ = (now_ + 1) % order_.size();
            if (left_[order_[now_]] == 0) continue;
            given_ = 0;
            return true;
        }
        return false;
    }

    bool open(std::size_t who) {
        if (!order_.empty()) {
            const auto before = order_[now_];
            if (left_[before] > 0 && way_ == Way::same && given_ % run_ != 0) return false;
            if (left_[before] > 0 && first_turn_[before]) runs_[before] = given_;
            first_turn_[before] = false;
        }
        // It is the next one after whose turn it was.
        now_ = order_.empty() ? 0 : now_ + 1;
        order_.insert(order_.begin() + static_cast<std::ptrdiff_t>(now_), who);
        given_ = 0;
        return true;
    }

    std::uint64_t turn_of(std::size_t who) const {
        constexpr auto all = ~std::uint64_t{0};
        if (way_ == Way::same && order_.size() > 1) return run_;
        if (way_ == Way::rest && !first_turn_[who]) return all;
        // Its first run goes on to the next one's start.
        if (first_turn_[who] && order_.size() < std::max<std::size_t>(at_once_, 2)) return all;
        return runs_[who] ? runs_[who] : run_;
    }

    const std::vector<DealtFile>& files_;
    const FreeClusters& free_;
    Way way_{};
    std::uint64_t run_ = 1;
    std::size_t at_once_ = 0;
    std::vector<std::vector<std::uint64_t>> dealt_;
    std::vector<std::uint64_t> left_, runs_;
    std::vector<bool> first_turn_;
    std::vector<std::size_t> order_;  ///< of turns; files are opened in the order of their starts
    std::size_t now_ = 0;             ///< whose turn it is, in that order
    std::uint64_t given_ = 0;         ///< clusters in this turn
};

class Deal {
  public:
    Deal(const std::vector<DealtFile>& files, const FreeClusters& free, const CheckRanges& check,
         bool together, const MendLimits& limits, const std::function<bool()>& stopped)
        : files_(files),
          free_(free),
          check_(check),
          together_(together),
          limits_(limits),
          stopped_(stopped),
          dealer_(files, free) {}

    std::optional<DealtHand> run() {
        // With the longest runs there are: those that starts ended are known then.
        if (!dealer_.deal(Way::own, longest_stretch, files_.size())) return std::nullopt;
        if (files_.size() == 1 && lies_in_one_run()) return std::nullopt;
        const auto usual = usual_runs();
        for (const auto run : usual) {
            if (try_run(run)) return std::move(taken_);
        }
        // Where one file tells right from wrong by itself, every length is worth a look.
        if (judged_) {
            for (std::uint64_t run = 1; run <= longest_run() && !spent(); ++run) {
                if (std::find(usual.begin(), usual.end(), run) == usual.end() && try_run(run))
                    return std::move(taken_);
            }
        }
        for (auto* hand : {&part_, &weak_, &by_rule_}) {
            if (*hand && (together_ || hand == &part_)) return std::move(*hand);
        }
        return std::nullopt;
    }
    MendCost cost() const { return {trials_, clusters_}; }

  private:
    bool spent() const { return trials_ >= limits_.trials || clusters_ >= limits_.clusters || stopped_(); }

    bool lies_in_one_run() const {
        return ranges_of(dealer_.dealt().front(), files_.front().size, free_.step()).size() == 1;
    }

    /// What tells one way to deal from another.
    std::uint64_t sum_of_dealt() const {
        std::uint64_t out = 0;
        for (const auto& clusters : dealer_.dealt()) {
            for (const auto offset : clusters) out = mixed(out + offset);
            out = mixed(out + 1);
        }
        return out;
    }

    /// Those that the starts show come first, then those that programs and drivers use.
    std::vector<std::uint64_t> usual_runs() const {
        auto out = dealer_.known_runs();
        std::reverse(out.begin(), out.end());
        out.insert(out.end(), {1, 2, 4, 8, 16, 32, 64, 128, 3, 6, 12});
        std::vector<std::uint64_t> unique;
        for (const auto run : out) {
            if (run <= longest_run() && std::find(unique.begin(), unique.end(), run) == unique.end())
                unique.push_back(run);
        }
        return unique;
    }
    std::uint64_t longest_run() const {
        std::uint64_t out = 1;
        for (const auto& file : files_) out = std::max(out, clusters_of(file, free_.step()));
        return out;
    }

    /// True once it is clear how the stretch was dealt out.
    bool try_run(std::uint64_t run) {
        for (auto at_once = files_.size(); at_once > 0; --at_once) {
            for (const auto way : {Way::own, Way::same, Way::rest}) {
                if (spent()) return false;
                if (!dealer_.deal(way, run, at_once) || !tried_.insert(sum_of_dealt()).second) continue;
                if (try_hand()) return true;
            }
        }
        return false;
    }

    /// What is best told comes first.
    std::vector<std::size_t> in_order_of_telling() const {
        std::vector<std::size_t> out(files_.size());
        std::iota(out.begin(), out.end(), std::size_t{0});
        const auto strength = [&](std::size_t i) {
            return files_[i].format ? files_[i].format->strength : Strength::none;
        };
        std::stable_sort(out.begin(), out.end(), [&](std::size_t a, std::size_t b) {
            if (strength(a) != strength(b)) return strength(a) > strength(b);
            return files_[a].size < files_[b].size;
        });
        return out;
    }

    bool try_hand() {
        ++trials_;
        DealtHand hand;
        hand.contents.resize(files_.size());
        const auto step = free_.step();
        constexpr std::uint64_t laid_out_for_one = 64;
        for (std::size_t i = 0; i < files_.size(); ++i) {
            hand.contents[i].ranges = ranges_of(dealer_.dealt()[i], files_[i].size, step);
            clusters_ += dealer_.dealt()[i].size() / laid_out_for_one;
        }
        std::uint64_t weak = 0;
        bool strong = false, fails = false;
        for (const auto i : in_order_of_telling()) {
            if (!files_[i].format) continue;
            auto& content = hand.contents[i];
            content.check = check_(content.ranges, files_[i].size);
            if (!content.check || !content.check->finished) return false;
            clusters_ += std::max(content.check->holds_to, content.check->noticed_at) / step + 1;
            const bool several = content.ranges.size() > 1;
            close_ += several &&
                      std::max(content.check->holds_to, content.check->noticed_at) + step >= files_[i].size;
            judged_ |= several && files_[i].format->strength >= Strength::fair;
            hand.proven += several && content.proven();
            strong |= several && content.proven() && content.check->strength == Strength::strong;
            // A text goes on with any other.
            weak += several && content.holds() && !files_[i].holds_anyhow &&
                    files_[i].format->filling != Filling::text;
            fails |= !content.holds();
            if (fails && !strong) return false;
        }
        hand.close = std::max<std::uint64_t>(close_, 1);
        hand.telling = hand.proven;
        if (hand.proven > 0 && !fails) {
            taken_ = std::move(hand);
            return true;
        }
        if (hand.proven > 0 && !part_) {
            // The others may be broken in themselves, or go on otherwise.
            for (auto& content : hand.contents) {
                const bool sure = content.proven() && content.check->strength == Strength::strong;
                if (!sure) content = {};
            }
            part_ = std::move(hand);
        }
        if (fails) return false;
        hand.telling = weak;
        auto& kept = weak > 0 ? weak_ : by_rule_;
        const bool pieces = std::any_of(hand.contents.begin(), hand.contents.end(),
                                        [](const DealtContent& c) { return c.ranges.size() > 1; });
        if (pieces && !kept) kept = std::move(hand);
        return false;
    }

    const std::vector<DealtFile>& files_;
    const FreeClusters& free_;
    const CheckRanges& check_;
    bool together_;
    const MendLimits& limits_;
    const std::function<bool()>& stopped_;
    Dealer dealer_;
    std::set<std::uint64_t> tried_;  ///< sums of ways
    std::optional<DealtHand> taken_, part_, weak_, by_rule_;
    bool judged_ = false;
    std::uint64_t trials_ = 0, close_ = 0, clusters_ = 0;
};

}  // namespace

bool DealtContent::holds() const {
    const auto size = total_length(ranges);
    return check && check->complete && check->holds_to == size && !check->loose_end;
}

bool DealtContent::proven() const {
    return holds() && check->strength >= Strength::fair;
}

std::vector<std::vector<std::size_t>> files_in_turns(const std::vector<DealtFile>& files,
                                                     const FreeClusters& free) {
    std::vector<std::vector<std::size_t>> out;
    for (std::size_t i = 0; i < files.size();) {
        std::vector<std::size_t> group{i};
        auto left = clusters_of(files[i], free.step());
        auto next = i + 1;
        std::uint64_t walked = 0;
        for (std::optional<std::uint64_t> at = files[i].start; at && left > 0 && group.size() <= most_open;) {
            if (++walked > longest_stretch) break;
            --left;
            if (left == 0) break;
            at = free.after(*at);
            if (!at || next == files.size() || files[next].start != *at) continue;
            left += clusters_of(files[next], free.step());
            group.push_back(next++);
        }
        const bool whole = left == 0 && group.size() <= most_open;
        i = whole ? next : i + 1;
        if (whole) out.push_back(std::move(group));
    }
    return out;
}

std::optional<DealtHand> deal_out(const std::vector<DealtFile>& files, const FreeClusters& free,
                                  const CheckRanges& check, bool together, const MendLimits& limits,
                                  const std::function<bool()>& stopped, MendCost& cost) {
    if (files.empty()) return std::nullopt;
    Deal deal(files, free, check, together, limits, stopped);
    auto out = deal.run();
    cost += deal.cost();
    return out;
}

}  // namespace undershelf
