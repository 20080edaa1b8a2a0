// What speaks for and against a layout, and what of metadata is about an entry's bytes.

#include <algorithm>
#include <cmath>

#include "content/formats.hpp"
#include "rating/balance.hpp"

namespace undershelf {

namespace {

// Likelihoods of the model, as in rate.cpp.
// A layout that was dealt: by turns with files that hold so, by nothing but the most usual rule, and by what
// others left.
constexpr double dealt_with_others = 0.95, dealt_by_rule = 0.55, left_by_others = 0.85;
constexpr double chained_prior = 0.2;  ///< of files that drivers keep a chain for although one run needs none
constexpr double next_free_prior = 0.94;   ///< of files that step over clusters, as guessed
constexpr double stepped_over_lost = 0.9;  ///< for each lost file that a guess steps over
constexpr double written_in_turns = 0.1;   ///< a guess, where another one of the same age runs into its start
constexpr double empty_prior = 0.01;       ///< of files in general, which count for one live one
constexpr double slot_before_content = 0.03;  ///< of lost files, deleted before their length was written
constexpr double kind_worth_saying = 0.005;

/// k of n files that are known, and what files in general do, which counts for a few of them.
double share_of(const Evidence& e, double prior) {
    return std::min(known_layout, (static_cast<double>(e.a) + prior * habit_weight) /
                                      (static_cast<double>(e.b) + habit_weight));
}

}  // namespace

void Rater::weigh_turns(Subject& s, Balance& b) const {
    const auto it = around_.in_turns.find(s.identity);
    if (it == around_.in_turns.end()) return;
    Evidence e{Fact::in_turns, 0, static_cast<std::uint64_t>(it->second), {}};
    Balance::multiply(b.layout, e, written_in_turns);
    s.evidence.push_back(std::move(e));
}

/// A kind that lies otherwise than the rest of its volume, where one run was guessed.
void Rater::weigh_kind(Subject& s, Balance& b) const {
    const auto guess = std::find_if(s.evidence.begin(), s.evidence.end(),
                                    [](const Evidence& e) { return e.fact == Fact::layout_prior; });
    const auto files = around_.kinds.of(s.volume, s.ext);
    if (guess == s.evidence.end() || files.files == 0) return;
    const auto usual = share_of(*guess, contiguous_prior);
    const auto by = around_.kinds.one_run(s.volume, s.ext, usual) / usual;
    // A kind that is like the others is not worth a word.
    if (std::abs(by - 1) < kind_worth_saying) return;
    Evidence e{Fact::kind_habit, files.one_run, files.files, std::string(written_extension(s.ext))};
    Balance::multiply(b.layout, e, by);
    s.evidence.push_back(std::move(e));
}

void Rater::weigh_fact(Evidence& e, Balance& b) {
    switch (e.fact) {
        case Fact::layout_prior:
            Balance::multiply(b.layout, e, share_of(e, contiguous_prior));
            break;
        case Fact::chain_freed:
            Balance::multiply(b.layout, e, share_of(e, chained_prior));
            break;
        case Fact::steps_over_lost:
            Balance::multiply(b.layout, e, std::pow(stepped_over_lost, static_cast<double>(e.a)));
            break;
        case Fact::step_prior:
            Balance::multiply(b.layout, e, share_of(e, next_free_prior));
            break;
        case Fact::dealt:
            Balance::multiply(b.layout, e, e.b > 0 ? dealt_with_others : dealt_by_rule);
            break;
        case Fact::left_over:
            Balance::multiply(b.layout, e, left_by_others);
            break;
        case Fact::chain_crosses:
        case Fact::bad_metadata:
            Balance::multiply(b.layout, e, cross_link);
            break;
        case Fact::high_word_argued:
            Balance::multiply(b.layout, e, e.b > 1 ? 0.6 : 0.97);
            break;
        case Fact::torn_record:
            Balance::multiply(b.layout, e, 0.7);
            break;
        case Fact::after_end_mark:
        case Fact::in_slack:
            Balance::multiply(b.own, e, 0.9);
            break;
        case Fact::empty_slot: {
            // Either such files are empty here as often as live ones, or the slot was written before the
            // content.
            const double empty = (static_cast<double>(e.a) + empty_prior) / (static_cast<double>(e.b) + 1);
            Balance::multiply(b.own, e, empty / (empty + slot_before_content));
            break;
        }
        default:
            break;
    }
}

}  // namespace undershelf
