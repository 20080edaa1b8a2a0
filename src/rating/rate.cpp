#include "rating/rate.hpp"

#include <algorithm>
#include <map>

#include "base/text.hpp"
#include "content/signature.hpp"
#include "rating/content_check.hpp"
#include "volume/content_stream.hpp"

namespace undershelf {

namespace {

// Likelihoods of the model, each with what it stands for. docs/rating.md argues them.
constexpr double live_assumed = 0.6;      ///< a live file whose books are unreadable for a part of it
constexpr double live_trust = 0.995;      ///< a live file reads as its driver would read it
constexpr double known_layout = 0.99;     ///< a recorded layout is right
constexpr double free_bytes_own = 0.96;   ///< bytes that nobody claims were not reused in between
constexpr double agrees_own = 0.99;       ///< the same, once the first bytes agree with the extension
constexpr double weakly_own = 0.975;      ///< the same, where only nothing speaks against it
constexpr double contradicts_own = 0.03;  ///< the same, once they contradict it
constexpr double contested_own = 0.4;     ///< two lost files of one age want the same bytes
constexpr double habit_weight = 2;        ///< live files that the general prior counts for
constexpr double contiguous_prior = 0.9;
constexpr double chained_prior = 0.2;  ///< of files that drivers keep a chain for although one run needs none
constexpr double next_free_prior = 0.7;
constexpr double text_throughout_odds =
    2.5;  ///< all looked-at bytes of an assumed layout are text, as they should be
constexpr double zeros_unlikely =
    0.02;  ///< zeros where this kind of file has none, and it is whole all the same
constexpr double all_zero_unknown = 0.1;  ///< an unknown kind of file that reads as zeros throughout
constexpr double cross_link = 0.5;        ///< of two live files that share clusters one is wrong
constexpr double contradiction_left = 0.3;
constexpr double slot_before_content = 0.03;  ///< of lost files, deleted before their length was written

constexpr std::uint64_t looks_for_each = 1024;  ///< stretches of others that every entry is compared with

constexpr double likely_from = 0.80;
constexpr double gone_below = 0.02;

bool is_rating_fact(Fact f) {
    switch (f) {
        case Fact::overwritten:
        case Fact::contested:
        case Fact::unreadable:
        case Fact::beyond_source:
        case Fact::reads_zero:
        case Fact::content_agrees:
        case Fact::content_contradicts:
        case Fact::content_verified:
        case Fact::content_fails:
        case Fact::volume_discards:
        case Fact::live_content:
        case Fact::recorded_layout:
        case Fact::not_reused:
        case Fact::text_throughout:
            return true;
        default:
            return false;
    }
}

double odds_times(double p, double factor) {
    if (p >= 1) return p;
    const double odds = p / (1 - p) * factor;
    return odds / (1 + odds);
}

Grade grade_of(const Subject& s, double chance, double left, bool loses, bool verified) {
    if (s.is_dir) return Grade::none;
    if (s.layout == Layout::none || left < gone_below) return Grade::gone;
    if (loses) return Grade::partial;
    if (verified) return Grade::verified;
    return chance >= likely_from ? Grade::likely : Grade::doubtful;
}

}  // namespace

/// What is being weighed: two factors of the chance, and which bytes of the file are lost. Every change of a
/// factor is kept with the evidence it comes from, so that the product of all effects is the chance.
struct Rater::Balance {
    double layout = 1;  ///< P(the layout is right)
    double own = 1;     ///< P(every byte is still the file's own)
    std::vector<ByteRange> lost;
    std::vector<ByteRange> contested;
    double left_factor = 1;

    static void multiply(double& factor, Evidence& e, double by) {
        const auto product = std::min(1.0, factor * by);
        e.chance *= static_cast<float>(factor > 0 ? product / factor : by);
        factor = product;
    }
};

ClaimRank claim_rank(const Entry& e) {
    if (e.origin == Origin::live) return live_rank;
    const auto ticks = [](const MaybeTime& t) { return t ? t->ticks : unknown_rank; };
    return std::max(ticks(e.modified), ticks(e.created));
}

std::uint64_t content_identity(int volume, const EntryKey& key) {
    // Splitmix64's finisher over the parts: equal keys meet, others practically never do.
    const auto mix = [](std::uint64_t x) {
        x = (x ^ (x >> 30)) * 0xBF58476D1CE4E5B9ull;
        x = (x ^ (x >> 27)) * 0x94D049BB133111EBull;
        return x ^ (x >> 31);
    };
    return mix(mix(mix(static_cast<std::uint64_t>(volume) + 0x9E3779B97F4A7C15ull) + key.a) + key.b);
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
    return r;
}

Rater::Rater(const Source& source, const ClaimMap& claims)
    : source_(source),
      claims_(claims),
      unreadable_(source.unreadable()),
      looks_(64 * claims.cells()),
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
    Balance b;
    weigh_metadata(s, b);
    if (s.size > 0) {
        weigh_unreadable(s, b);
        if (s.origin != Origin::live) {
            weigh_claims(s, b);
            weigh_content(s, b);
        }
    }
    const RangeSet lost(std::move(b.lost));
    const RangeSet contested(std::move(b.contested));
    const auto size = static_cast<double>(std::max<std::uint64_t>(s.size, 1));
    r.left = std::max(0.0, 1 - static_cast<double>(lost.bytes()) / size -
                               0.5 * static_cast<double>(contested.bytes()) / size);
    // A wrong guess at the layout still has the start right, and often more.
    r.left *= (0.5 + 0.5 * b.layout) * b.left_factor;
    r.chance = lost.empty() ? b.layout * b.own : 0;
    r.grade = grade_of(s, r.chance, r.left, !lost.empty(), false);
    return r;
}

void Rater::weigh_metadata(Subject& s, Balance& b) const {
    const bool live = s.origin == Origin::live;
    const auto start_with = [&](Fact fact, double& factor, double by) {
        Evidence e{fact, 0, 0, {}};
        Balance::multiply(factor, e, by);
        s.evidence.push_back(std::move(e));
    };
    const bool assumed = std::any_of(s.evidence.begin(), s.evidence.end(), [](const Evidence& e) {
        return e.fact == Fact::layout_prior || e.fact == Fact::chain_freed;
    });
    for (auto& e : s.evidence) weigh_fact(e, s, b);
    if (live)
        start_with(Fact::live_content, b.layout, s.layout == Layout::assumed ? live_assumed : live_trust);
    if (!live && !assumed && s.size > 0) start_with(Fact::recorded_layout, b.layout, known_layout);
    if (!live && s.size > 0) start_with(Fact::not_reused, b.own, free_bytes_own);
    for (const auto& p : s.pieces) {
        if (p.kind == PieceKind::missing) b.lost.push_back({p.offset, p.length});
    }
}

namespace {
bool steps(const Subject& s) {
    return std::any_of(s.evidence.begin(), s.evidence.end(),
                       [](const Evidence& e) { return e.fact == Fact::next_free; });
}
}  // namespace

void Rater::weigh_fact(Evidence& e, const Subject& s, Balance& b) {
    switch (e.fact) {
        case Fact::layout_prior:
        case Fact::chain_freed: {
            // Live files in one run speak for one run; how many stepped over others is not recorded.
            if (steps(s)) break;
            const double prior = e.fact == Fact::chain_freed ? chained_prior : contiguous_prior;
            const double p =
                (static_cast<double>(e.a) + prior * habit_weight) / (static_cast<double>(e.b) + habit_weight);
            Balance::multiply(b.layout, e, std::min(known_layout, p));
            break;
        }
        case Fact::next_free:
            Balance::multiply(b.layout, e, next_free_prior);
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
            const double empty = (static_cast<double>(e.a) + 0.1) / (static_cast<double>(e.b) + 1);
            Balance::multiply(b.own, e, empty / (empty + slot_before_content));
            break;
        }
        default:
            break;
    }
}

namespace {
/// Calls `visit(source range, file range)` for every stretch of the source the pieces read.
template <class Visit>
void for_each_source_range(const std::vector<Piece>& pieces, Visit visit) {
    for (const auto& p : pieces) {
        if (p.kind == PieceKind::stored) visit(p.source_range(), ByteRange{p.offset, p.length});
        if (p.kind == PieceKind::packed) {
            for (const auto& r : p.input) visit(r, ByteRange{p.offset, p.length});
        }
        if (p.kind == PieceKind::inlined) continue;  // copied while its record was whole
    }
}

/// The part of a piece's file range that belongs to a part of its source range; all of it for packed pieces.
ByteRange in_file(const ByteRange& part, const ByteRange& source, const ByteRange& file) {
    if (source.length != file.length) return file;
    return {file.offset + (part.offset - source.offset), part.length};
}
}  // namespace

void Rater::weigh_unreadable(Subject& s, Balance& b) const {
    std::uint64_t unreadable = 0, beyond = 0;
    for_each_source_range(s.pieces, [&](const ByteRange& source, const ByteRange& file) {
        for (const auto& bad : unreadable_.within(source)) {
            b.lost.push_back(in_file(bad, source, file));
            unreadable += bad.length;
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
    add(Fact::beyond_source, beyond);
}

void Rater::weigh_claims(Subject& s, Balance& b) {
    looks_ += looks_for_each;
    std::map<std::pair<bool, std::int64_t>, std::uint64_t> others;
    for_each_source_range(s.pieces, [&](const ByteRange& source, const ByteRange& file) {
        for (const auto& loss : claims_.losses(source, s.identity, s.rank, looks_)) {
            (loss.contested ? b.contested : b.lost).push_back(in_file(loss.range, source, file));
            others[{loss.contested, loss.entry}] += loss.range.length;
        }
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

void Rater::weigh_content(Subject& s, Balance& b) {
    const RangeSet lost(b.lost);
    if (lost.bytes() >= s.size) return;
    ContentStream stream(source_, s.pieces, s.size);
    const auto seen = look_at_content(stream, s.ext, lost, content_bytes_);
    content_bytes_ -= std::min(content_bytes_, seen.looked);
    weigh_zeros(s, b, seen);
    if (!lost.contains(0) && !seen.zero_start && !s.ext_made_up) weigh_first_bytes(s, b, seen);
    if (seen.broken_text_at && !seen.zero_start) {
        const auto share = static_cast<double>(s.size - *seen.broken_text_at) / static_cast<double>(s.size);
        Evidence e{
            Fact::content_fails,           *seen.broken_text_at, 0, "the text turns into other data", 1,
            static_cast<float>(-share / 2)};
        Balance::multiply(b.own, e, contradicts_own);
        b.left_factor *= 1 - share / 2;
        s.evidence.push_back(std::move(e));
    } else if (seen.text_throughout && s.layout == Layout::assumed) {
        Evidence e{Fact::text_throughout, 0, 0, {}};
        Balance::multiply(b.layout, e, odds_times(b.layout, text_throughout_odds) / b.layout);
        s.evidence.push_back(std::move(e));
    }
}

void Rater::weigh_zeros(Subject& s, Balance& b, const ContentLook& seen) {
    const bool throughout = seen.zero_bytes >= s.size;
    if (seen.zero_bytes == 0 || (!seen.zeros_telling && !throughout)) return;
    const auto share = static_cast<double>(std::min(seen.zero_bytes, s.size)) / static_cast<double>(s.size);
    Evidence e{Fact::reads_zero,          std::min(seen.zero_bytes, s.size), s.size, {}, 1,
               static_cast<float>(-share)};
    Balance::multiply(b.own, e, seen.zeros_telling ? zeros_unlikely : all_zero_unknown);
    s.evidence.push_back(std::move(e));
    b.left_factor *= seen.zeros_telling ? std::max(0.0, 1 - share) : 0.5;
    // Contents of a kind that never is all zeros are gone for certain.
    if (seen.zeros_telling && throughout) b.lost.push_back({0, s.size});
}

void Rater::weigh_first_bytes(Subject& s, Balance& b, const ContentLook& seen) {
    const auto add = [&](Fact fact, double by, double left) {
        Evidence e{fact, 0, 0, std::string(seen.first.format), 1, static_cast<float>(left)};
        Balance::multiply(b.own, e, by);
        s.evidence.push_back(std::move(e));
    };
    switch (seen.first.agreement) {
        case Agreement::agrees:
            add(Fact::content_agrees, agrees_own / free_bytes_own, 0);
            break;
        case Agreement::weakly:
            add(Fact::content_agrees, weakly_own / free_bytes_own, 0);
            break;
        case Agreement::contradicts:
            add(Fact::content_contradicts, contradicts_own, contradiction_left - 1);
            b.left_factor *= contradiction_left;
            break;
        case Agreement::unknown:
            break;
    }
}

}  // namespace undershelf
