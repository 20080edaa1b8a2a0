// What an entry's own bytes say.

#include <fmt/format.h>

#include "rating/balance.hpp"
#include "rating/content_check.hpp"
#include "volume/content_stream.hpp"

namespace undershelf {

namespace {

// Likelihoods of the model, as in rate.cpp: of the doubt that somebody wrote over it unseen, this part stays
constexpr double doubt_if_agrees = 0.25;      ///< once the first bytes agree with the extension
constexpr double doubt_if_weakly = 0.6;       ///< where only nothing speaks against it
constexpr double doubt_if_same_start = 0.25;  ///< where it begins with the bytes that its siblings begin with
constexpr double doubt_if_alike = 0.8;        ///< where it is text, or binary, as its siblings are
// and these are probabilities, or factors on them.
constexpr double contradicts_own = 0.03;  ///< that a file is whole whose bytes contradict what it is
constexpr double contradiction_left = 0.3;
constexpr double text_throughout_odds = 2.5;  ///< all looked-at bytes are text, as they should be
constexpr double text_recorded_odds =
    4;  ///< where all of it was looked at: three of four files that may have come over it are no texts
constexpr double zeros_unlikely =
    0.02;  ///< zeros where this kind of file has none, and it is whole all the same
// Of 5,000 lost files of practice volumes that are right and hold, none ends as a shorter file does.
constexpr double odds_if_ends_early = 1.0 / 50;
/// What siblings that begin otherwise take from the odds of a recorded layout, at most.
constexpr double most_against_recorded = 4;

// After the end of a content, up to the end of its sector:
constexpr double odds_if_end_fits = 2;    ///< that nobody wrote over it, where zeros follow as they should
constexpr double zeros_by_chance = 0.05;  ///< another file's bytes there are zeros
constexpr double another_writer =
    0.005;                              ///< it is by a writer that leaves other data there, unlike live ones
constexpr double most_for_an_end = 10;  ///< on the odds of a layout: one end is one witness
constexpr double usual_share = 0.85;    ///< live files that end so, before that is taken for their way
// Of an unknown kind of file that reads as zeros throughout.
constexpr double all_zero_own = 0.01;  ///< files in general that are nothing but zeros
constexpr double emptied_usual = 0.2;  ///< lost files that read so because they were discarded, before any
                                       ///< of the volume is known, which counts for one

double odds_times(double p, double factor) {
    if (p >= 1) return p;
    const double odds = p / (1 - p) * factor;
    return odds / (1 + odds);
}

double with_doubt(double p, double part) {
    return 1 - (1 - p) * part;
}

}  // namespace

void Rater::weigh_content(Subject& s, Balance& b) {
    const RangeSet lost(b.lost);
    if (lost.bytes() >= s.size) return;
    if (s.origin == Origin::unnamed) {
        // What it is was read from its bytes; where it ends may show.
        if (!s.passed()) weigh_slack(s, b);
        return;
    }
    ContentStream stream(source_, s.pieces, s.size);
    const auto seen = look_at_content(stream, s.ext, lost, content_bytes_);
    content_bytes_ -= std::min(content_bytes_, seen.looked);
    weigh_zeros(s, b, seen);
    if (!lost.contains(0) && !seen.zero_start && !s.ext_made_up) {
        weigh_first_bytes(s, b, seen);
        // What was read to its end and holds says more than what others are like.
        const bool holds = s.check && s.check->complete;
        if (seen.first.agreement == Agreement::unknown && !holds) weigh_siblings(s, b, stream);
    }
    if (!s.passed() && !lost.contains(s.size - 1)) weigh_slack(s, b);
    if (seen.broken_text_at && !seen.zero_start) {
        const auto share = static_cast<double>(s.size - *seen.broken_text_at) / static_cast<double>(s.size);
        Evidence e{
            Fact::content_fails,           *seen.broken_text_at, 0, "the text turns into other data", 1,
            static_cast<float>(-share / 2)};
        Balance::multiply(b.own, e, contradicts_own);
        b.left_factor *= 1 - share / 2;
        s.evidence.push_back(std::move(e));
    } else if (seen.text_throughout) {
        Evidence e{Fact::text_throughout, 0, 0, {}};
        const bool assumed = s.layout == Layout::assumed;
        if (assumed) Balance::multiply(b.layout, e, odds_times(b.layout, text_throughout_odds) / b.layout);
        // Looked at here and there it says little of what came over it unseen; read to its end it does.
        if (!assumed || (s.check && s.check->complete))
            b.settle_unseen(e, odds_times(b.unseen, text_recorded_odds));
        s.evidence.push_back(std::move(e));
    }
}

namespace {
/// Is it all zeros because it always was? The less the volume's other lost files read so, the more likely.
double always_zero(const Emptied::Answer& others) {
    const auto emptied =
        (static_cast<double>(others.zeros) + emptied_usual) / (static_cast<double>(others.files) + 1);
    return all_zero_own / (all_zero_own + emptied);
}
}  // namespace

void Rater::weigh_zeros(Subject& s, Balance& b, const ContentLook& seen) {
    const bool throughout = seen.zero_bytes >= s.size;
    if (seen.zero_bytes == 0 || (!seen.zeros_telling && !throughout)) return;
    const auto share = static_cast<double>(std::min(seen.zero_bytes, s.size)) / static_cast<double>(s.size);
    Evidence e{Fact::reads_zero,          std::min(seen.zero_bytes, s.size), s.size, {}, 1,
               static_cast<float>(-share)};
    if (seen.zeros_telling) {
        Balance::multiply(b.own, e, zeros_unlikely);
        b.left_factor *= std::max(0.0, 1 - share);
    } else {
        // A file without a name may be of any kind, most of which never are.
        const auto others = s.ext_made_up ? Emptied::Answer() : around_.emptied.of(s.volume);
        const auto own = always_zero(others);
        Balance::multiply(b.own, e, own);
        if (others.files > 0) e.text = fmt::format("{} of {}", others.zeros, others.files);
        e.left = static_cast<float>(own - 1);
        b.left_factor *= own;
    }
    s.evidence.push_back(std::move(e));
    // Contents of a kind that never is all zeros are gone for certain.
    if (seen.zeros_telling && throughout) b.lost.push_back({0, s.size});
}

void Rater::weigh_first_bytes(Subject& s, Balance& b, const ContentLook& seen) {
    const auto add = [&](Fact fact, double unseen, double left) {
        Evidence e{fact, 0, 0, std::string(seen.first.format), 1, static_cast<float>(left)};
        b.settle_unseen(e, unseen);
        s.evidence.push_back(std::move(e));
    };
    switch (seen.first.agreement) {
        case Agreement::agrees:
            add(Fact::content_agrees, with_doubt(b.unseen, doubt_if_agrees), 0);
            break;
        case Agreement::weakly:
            add(Fact::content_agrees, with_doubt(b.unseen, doubt_if_weakly), 0);
            break;
        case Agreement::contradicts:
            add(Fact::content_contradicts, b.unseen * contradicts_own, contradiction_left - 1);
            b.left_factor *= contradiction_left;
            break;
        case Agreement::unknown:
            break;
    }
}

void Rater::weigh_siblings(Subject& s, Balance& b, ContentStream& stream) {
    const auto answer = around_.siblings.compare(s.volume, s.ext, stream.first(signature_bytes));
    if (answer.fit == Siblings::Fit::unknown) return;
    const bool fits = answer.fit != Siblings::Fit::differs;
    Evidence e{Fact::siblings, answer.files, fits, answer.common};
    // The more of them are alike, the less likely one more is not (rule of succession). What intact metadata
    // say is seldom wrong for that: there are few of a kind to look at, and kinds have more than one way.
    const auto alike = static_cast<double>(answer.files) + 1;
    const auto against = s.layout == Layout::known ? std::min(alike, most_against_recorded) : alike;
    const auto unseen =
        !fits ? odds_times(b.unseen, 1 / against)
              : with_doubt(b.unseen,
                           answer.fit == Siblings::Fit::same_start ? doubt_if_same_start : doubt_if_alike);
    b.settle_unseen(e, unseen);
    s.evidence.push_back(std::move(e));
}

void Rater::weigh_slack(Subject& s, Balance& b) {
    if (s.ext_made_up && s.origin != Origin::unnamed) return;
    const auto habit = around_.slack.of(s.volume, s.ext);
    if (habit.files == 0 || habit.share() < usual_share) return;
    const auto end = file_end(source_, s.pieces, s.size);
    if (!end) return;
    Evidence e{Fact::slack, habit.files, habit.zeros, end->zeros_behind ? "zeros as well" : "other data"};
    if (end->zeros_behind) {
        const auto ratio = std::min(habit.share() / zeros_by_chance, most_for_an_end);
        if (s.layout == Layout::assumed)
            Balance::multiply(b.layout, e, odds_times(b.layout, ratio) / b.layout);
        b.settle_unseen(e, odds_times(b.unseen, odds_if_end_fits));
    } else {
        // Whoever wrote it may not have written the others.
        const auto ratio = (1 - habit.share() + another_writer) / (1 - zeros_by_chance);
        if (s.layout == Layout::assumed)
            Balance::multiply(b.layout, e, odds_times(b.layout, ratio) / std::max(b.layout, 1e-9));
        else
            b.settle_unseen(e, odds_times(b.unseen, ratio));
    }
    s.evidence.push_back(std::move(e));
}

/// A check that only holds fairly over another one's start has not passed.
void Rater::weigh_foreign_start(Subject& s) const {
    const auto it = around_.foreign_starts.find(s.identity);
    if (it == around_.foreign_starts.end() || !s.passed()) return;
    s.check->strength = Strength::weak;
    s.evidence.push_back({Fact::foreign_start, static_cast<std::uint64_t>(it->second), 0, {}});
}

/// A content that holds and ends early speaks against where it was looked for; many speak against where a
/// former volume's clusters were taken to begin.
void Rater::weigh_early_end(Subject& s, Balance& b) const {
    if (s.origin == Origin::unnamed || s.passed()) return;
    const auto weigh = [&](Evidence e, double odds) {
        Balance::multiply(b.layout, e, odds_times(b.layout, odds) / std::max(b.layout, 1e-9));
        s.evidence.push_back(std::move(e));
    };
    const bool holds = s.check && s.check->complete && s.check->strength >= Strength::fair;
    if (holds && holds_a_shorter_file(source_, s.pieces, s.size, s.check->holds_to))
        weigh({Fact::ends_early, s.check->holds_to, 0, {}}, odds_if_ends_early);
    const auto others = around_.early_ends.of(s.volume);
    if (others.many()) weigh({Fact::volume_ends_early, others.early, others.files, {}}, odds_if_ends_early);
}

}  // namespace undershelf
