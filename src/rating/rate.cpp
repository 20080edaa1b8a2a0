#include "rating/rate.hpp"

#include <algorithm>
#include <cmath>

#include "base/ensure.hpp"
#include "base/mix.hpp"
#include "rating/balance.hpp"
#include "volume/pieces.hpp"
#include "volume/relayout.hpp"

namespace undershelf {

namespace {

// Likelihoods of the model, each with what it stands for. docs/rating.md argues them.
constexpr double live_assumed = 0.6;      ///< a live file whose books are unreadable for a part of it
constexpr double live_trust = 0.995;      ///< a live file reads as its driver would read it
constexpr double free_bytes_own = 0.96;   ///< bytes that nobody claims were not reused in between
constexpr double later_use_weight = 0.5;  ///< less of that, where later files may have been all over it
constexpr double gap_use_weight = 0.55;   ///< the same, of later files that went into gaps
constexpr double contested_own = 0.4;     ///< two lost files of one age want the same bytes
constexpr double usual_later_use = 0.05;  ///< volumes live on as much anyway: that the 0.96 is for

constexpr std::uint64_t looks_for_each = 1024;  ///< stretches of others that every entry is compared with

constexpr double likely_from = 0.80;
// What a check to the end leaves of the doubt when it passes, and of the hope when it fails.
constexpr double strong_pass = 0.999, fair_pass = 0.99;
constexpr double luck_of_one =
    0.01;  ///< a wrong layout that holds up to its last cluster passes a fair check
constexpr double strong_fail = 0.01, fair_fail = 0.05, weak_fail = 0.2, unpromised_fail = 0.85,
                 cut_short = 0.95;
constexpr double gone_below = 0.02;

bool is_rating_fact(Fact f) {
    switch (f) {
        case Fact::overwritten:
        case Fact::contested:
        case Fact::unreadable:
        case Fact::not_copied:
        case Fact::beyond_source:
        case Fact::reads_zero:
        case Fact::content_agrees:
        case Fact::content_contradicts:
        case Fact::content_fails:
        case Fact::live_content:
        case Fact::recorded_layout:
        case Fact::not_reused:
        case Fact::text_throughout:
        case Fact::in_turns:
        case Fact::siblings:
        case Fact::slack:
        case Fact::ends_early:
        case Fact::volume_ends_early:
        case Fact::foreign_start:
        case Fact::kind_habit:
            return true;
        default:
            return false;
    }
}

Grade grade_of(const Subject& s, double chance, double left, bool loses, bool verified) {
    if (s.is_dir) return Grade::none;
    if (s.layout == Layout::none || left < gone_below) return Grade::gone;
    if (loses) return Grade::partial;
    if (verified) return Grade::verified;
    return chance >= likely_from ? Grade::likely : Grade::doubtful;
}

/// Whoever reads them takes them for shares.
Rating shares_of_one(const Rating& r) {
    ensure(r.chance >= 0 && r.chance <= 1 && r.left >= 0 && r.left <= 1, "a chance is no share of one");
    return r;
}

}  // namespace

ClaimRank claim_rank(const Entry& e) {
    if (e.origin == Origin::live) return live_rank;
    // Dates that are in a content do not tell when it came to its place.
    if (e.origin == Origin::unnamed) return unknown_rank;
    const auto ticks = [](const MaybeTime& t) { return t ? t->ticks : unknown_rank; };
    return std::max(ticks(e.modified), ticks(e.created));
}

std::uint64_t content_identity(int volume, const EntryKey& key) {
    return mixed(mixed(mixed(static_cast<std::uint64_t>(volume) + 0x9E3779B97F4A7C15ull) + key.a) + key.b);
}

Rating rate_alone(const Entry& e) {
    Rating r;
    std::uint64_t missing = 0;
    bool doubt = false;
    for (const auto& p : e.pieces) missing += p.kind == PieceKind::missing ? p.length : 0;
    for (const auto& f : e.evidence) doubt |= f.fact == Fact::chain_crosses || f.fact == Fact::bad_metadata;
    if (e.is_dir) return r;
    Subject s;
    s.size = e.size;
    s.layout = e.layout;
    r.left = e.layout == Layout::none ? 0
             : e.size                 ? 1 - static_cast<double>(missing) / static_cast<double>(e.size)
                                      : 1;
    r.chance = e.layout == Layout::none || missing                     ? 0
               : e.origin == Origin::live && e.layout == Layout::known ? live_trust
                                                                       : 0.5;
    if (doubt) r.chance *= cross_link;
    r.grade = grade_of(s, r.chance, r.left, missing > 0, false);
    return shares_of_one(r);
}

double CheckedContent::luck(const std::vector<Evidence>& evidence) const {
    if (strength == Strength::strong) return 0;
    const auto it = std::find_if(evidence.begin(), evidence.end(),
                                 [](const Evidence& e) { return e.fact == Fact::mended; });
    return it == evidence.end() ? 0 : 1 - std::pow(1 - luck_of_one, static_cast<double>(it->b));
}

Rater::Rater(const Source& source, const Surroundings& around)
    : source_(source),
      around_(around),
      unreadable_(source.unreadable()),
      looks_(64 * around.claims.cells()),
      content_bytes_(8 * source.size()) {}

Rating Rater::rate(Subject& s) {
    std::erase_if(s.evidence, [](const Evidence& e) { return is_rating_fact(e.fact); });
    for (auto& e : s.evidence) e.chance = 1, e.left = 0;
    Rating r;
    if (s.is_dir) return r;
    if (s.layout == Layout::none) {
        r.grade = Grade::gone;
        return r;
    }
    weigh_foreign_start(s);
    Balance b;
    weigh_metadata(s, b);
    if (s.size > 0) {
        weigh_unreadable(s, b);
        if (s.origin != Origin::live) {
            if (s.origin != Origin::unnamed) weigh_claims(s, b);
            weigh_content(s, b);
            weigh_check(s, b);
        }
    }
    const RangeSet lost(std::move(b.lost));
    const RangeSet contested(std::move(b.contested));
    const auto size = static_cast<double>(std::max<std::uint64_t>(s.size, 1));
    r.left = std::max(0.0, 1 - static_cast<double>(lost.bytes()) / size -
                               0.5 * static_cast<double>(contested.bytes()) / size);
    // A wrong guess at the layout still has the start right, and often more.
    r.left *= (0.5 + 0.5 * b.layout) * b.left_factor;
    r.chance = lost.empty() && !b.not_copied ? b.layout * b.own : 0;
    const bool verified = s.origin != Origin::live && s.passed() && contested.empty() && !b.not_copied;
    // Where a content goes on that was cut off is not known, but it does.
    const bool goes_on =
        has_fact(s.evidence, Fact::cut_off) && s.check && s.check->strength >= Strength::fair;
    r.grade = grade_of(s, r.chance, r.left, !lost.empty() || goes_on, verified);
    return shares_of_one(r);
}

/// What is in the shelf of a check gets its effect. A pass settles both factors: a wrong layout, or a
/// byte that somebody wrote over, would have shown.
void Rater::weigh_check(Subject& s, Balance& b) const {
    weigh_early_end(s, b);
    if (!s.check) return;
    for (auto& e : s.evidence) {
        if (e.fact == Fact::checked_whole && s.passed()) {
            const auto trust = s.check->strength == Strength::strong ? strong_pass : fair_pass;
            Balance::multiply(b.layout, e, 1 / std::max(b.layout, 1e-9));
            if (b.own < trust || s.origin == Origin::unnamed)
                Balance::multiply(b.own, e, trust / std::max(b.own, 1e-9));
        }
        if (e.fact == Fact::mended) {
            const auto luck = s.check->luck(s.evidence);
            if (luck > 0 && !s.passed()) Balance::multiply(b.layout, e, 1 - luck);
        }
        // Another file's bytes would hardly go on as its own up to the last.
        if (e.fact == Fact::checked_cut) Balance::multiply(b.layout, e, cut_short);
        if (e.fact == Fact::checked_broken) {
            // Under a name that promises no such format it may be a piece of one, as it was written; a wrong
            // head beside a right mark was written so as well.
            const bool says_little =
                !has_fact(s.evidence, Fact::content_agrees) || has_fact(s.evidence, Fact::odd_head);
            const auto hope = says_little                             ? unpromised_fail
                              : s.check->strength == Strength::strong ? strong_fail
                              : s.check->strength == Strength::fair   ? fair_fail
                                                                      : weak_fail;
            Balance::multiply(b.layout, e, hope);
            const auto holds =
                static_cast<double>(std::min(s.check->holds_to, s.size)) / static_cast<double>(s.size);
            // What is after the failure may be its own all the same.
            e.left = static_cast<float>(-0.5 * (1 - holds));
            b.left_factor *= 0.5 + 0.5 * holds;
        }
    }
}

void Rater::weigh_metadata(Subject& s, Balance& b) const {
    const bool live = s.origin == Origin::live;
    const auto start_with = [&](Fact fact, double& factor, double by) {
        Evidence e{fact, 0, 0, {}};
        Balance::multiply(factor, e, by);
        s.evidence.push_back(std::move(e));
    };
    const bool assumed = has_fact(s.evidence, Fact::layout_prior) ||
                         has_fact(s.evidence, Fact::chain_freed) || has_fact(s.evidence, Fact::step_prior) ||
                         was_mended(s.evidence);
    for (auto& e : s.evidence) weigh_fact(e, b);
    weigh_kind(s, b);
    if (s.origin == Origin::unnamed) weigh_unnamed(s, b);
    if (live)
        start_with(Fact::live_content, b.layout, s.layout == Layout::assumed ? live_assumed : live_trust);
    // Of what nothing names nothing is recorded; it was seen to be there.
    const bool named = s.origin != Origin::unnamed;
    if (!live && named && !assumed && s.size > 0) start_with(Fact::recorded_layout, b.layout, known_layout);
    if (!live && named && s.size > 0) {
        const auto later = later_use_of(s);
        const auto counted = [](double share) { return share > usual_later_use ? share : 0; };
        const auto free = counted(later.of_free), gaps = counted(later.of_gaps);
        const bool by_gaps = gap_use_weight * gaps > later_use_weight * free;
        Evidence e{
            Fact::not_reused, static_cast<std::uint64_t>((by_gaps ? gaps : free) * 100 + 0.5), by_gaps, {}};
        const auto reuse = by_gaps ? gap_use_weight * gaps : later_use_weight * free;
        b.settle_unseen(e, free_bytes_own * (1 - reuse));
        s.evidence.push_back(std::move(e));
        weigh_turns(s, b);
    }
    for (const auto& p : s.pieces) {
        if (p.kind == PieceKind::missing) b.lost.push_back({p.offset, p.length});
    }
}

/// What a former volume held to its end was no gap.
LaterUse::Share Rater::later_use_of(const Subject& s) const {
    auto out = around_.later_use.share(s.volume, std::max(s.rank, s.deleted));
    if (s.origin == Origin::former && !has_fact(s.evidence, Fact::deleted_before)) out.of_gaps = 0;
    return out;
}

VolumeTraits Rater::traits_of(const Subject& s) const {
    const auto it = around_.volumes.find(s.volume);
    return it == around_.volumes.end() ? VolumeTraits() : it->second;
}

namespace {
/// The part of a piece's file range that belongs to a part of its source range; all of it for packed pieces.
ByteRange in_file(const ByteRange& part, const ByteRange& source, const ByteRange& file) {
    if (source.length != file.length) return file;
    return {file.offset + (part.offset - source.offset), part.length};
}
}  // namespace

void Rater::weigh_unreadable(Subject& s, Balance& b) const {
    std::uint64_t unreadable = 0, not_copied = 0, beyond = 0;
    for_each_source_range(s.pieces, [&](const ByteRange& source, const ByteRange& file) {
        for (const auto& bad : unreadable_.within(source)) {
            not_copied += total_length(source_.not_copied().within(bad));
            for (const auto& r : source_.not_copied().gaps_within(bad)) {
                b.lost.push_back(in_file(r, source, file));
                unreadable += r.length;
            }
        }
        if (source.end() > source_.size()) {
            const auto from = std::max(source.offset, source_.size());
            b.lost.push_back(in_file({from, source.end() - from}, source, file));
            beyond += source.end() - from;
        }
    });
    const auto size = static_cast<double>(s.size);
    const auto add = [&](Fact fact, std::uint64_t bytes) {
        if (bytes)
            s.evidence.push_back(
                {fact, bytes, 0, {}, 0.f, -static_cast<float>(static_cast<double>(bytes) / size)});
    };
    add(Fact::unreadable, unreadable);
    b.not_copied = not_copied > 0;
    if (not_copied) s.evidence.push_back({Fact::not_copied, not_copied, 0, {}, 0.f, 0.f});
    add(Fact::beyond_source, beyond);
}

void Rater::weigh_claims(Subject& s, Balance& b) {
    looks_ += looks_for_each;
    std::map<std::pair<bool, std::int64_t>, std::uint64_t> others;
    const auto traits = traits_of(s);
    const auto recorded = recorded_bytes(s.layout, traits);
    const bool passed = s.passed();
    const auto guessed = passed                                        ? Hold::verified
                         : has_fact(s.evidence, Fact::steps_over_lost) ? Hold::doubted
                                                                       : Hold::guessed;
    const auto by_record = passed ? Hold::verified : Hold::recorded;
    const auto ask = [&](const ByteRange& source, const ByteRange& file, Hold hold) {
        const Standing standing{hold, traits.date_resolution, s.rank,
                                life_of(traits, has_fact(s.evidence, Fact::deleted_before))};
        for (const auto& loss : around_.claims.losses(source, s.identity, standing, looks_)) {
            (loss.contested ? b.contested : b.lost).push_back(in_file(loss.range, source, file));
            others[{loss.contested, loss.entry}] += loss.range.length;
        }
    };
    for_each_source_range(s.pieces, [&](const ByteRange& source, const ByteRange& file) {
        if (source.length != file.length) {  // packed, which is recorded or none
            ask(source, file, by_record);
            return;
        }
        const auto n = file.offset < recorded ? std::min(file.length, recorded - file.offset) : 0;
        if (n > 0) ask({source.offset, n}, {file.offset, n}, by_record);
        if (n < file.length)
            ask({source.offset + n, file.length - n}, {file.offset + n, file.length - n}, guessed);
    });
    // The few that have most are worth naming; the sums are in `left`.
    std::vector<std::pair<std::pair<bool, std::int64_t>, std::uint64_t>> named(others.begin(), others.end());
    std::sort(named.begin(), named.end(), [](const auto& x, const auto& y) { return x.second > y.second; });
    if (named.size() > 8) named.resize(8);
    bool doubted = false;
    for (const auto& [who, bytes] : named) {
        const auto share = static_cast<float>(static_cast<double>(bytes) / static_cast<double>(s.size));
        const auto [contested, id] = who;
        Evidence e{contested ? Fact::contested : Fact::overwritten,
                   bytes,
                   static_cast<std::uint64_t>(id),
                   {},
                   1,
                   contested ? -share / 2 : -share};
        if (!contested) e.chance = 0;
        if (contested && !doubted) Balance::multiply(b.own, e, contested_own);
        doubted |= contested;
        s.evidence.push_back(std::move(e));
    }
}

}  // namespace undershelf
