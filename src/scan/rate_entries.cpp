#include "scan/rate_entries.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <map>

#include "rating/foreign_starts.hpp"
#include "rating/guesses.hpp"
#include "rating/rate.hpp"
#include "systems/file_systems.hpp"
#include "volume/content_stream.hpp"

namespace undershelf {

namespace {

/// Do most lost contents of a volume read as zeros?
struct DiscardCount {
    std::uint64_t files = 0, zeros = 0;

    void count(const Subject& s) {
        // What was found by its content alone does not read as zeros.
        if (s.origin == Origin::live || s.origin == Origin::unnamed) return;
        if (s.layout == Layout::none || s.size < 512) return;
        bool lost_otherwise = false, reads_zero = false;
        for (const auto& e : s.evidence) {
            lost_otherwise |= e.fact == Fact::overwritten || e.fact == Fact::unreadable;
            reads_zero |= e.fact == Fact::reads_zero;
        }
        if (lost_otherwise && !reads_zero) return;
        ++files;
        zeros += reads_zero;
    }
    /// Most of them, of more than a few: without discards hardly any does.
    bool speaks() const { return files >= 5 && zeros * 2 > files; }
};

std::map<int, VolumeTraits> traits_of(const std::vector<Volume>& volumes, const ShelfWriter& shelf) {
    std::map<int, VolumeTraits> out;
    std::vector<std::pair<std::int64_t, int>> former;  // by the date of its newest entry
    for (const auto& v : volumes) {
        const auto* fs = file_system_of(v);
        out[v.number] = {v.size, v.cluster_size, fs ? fs->date_resolution() : 0, 0};
        if (v.state == VolumeState::former) former.emplace_back(shelf.newest_date(v.number), v.number);
    }
    std::sort(former.begin(), former.end(), std::greater<>());
    std::uint16_t lives = 0;
    for (const auto& [newest, number] : former) out[number].former = ++lives;
    return out;
}

/// How files of former volumes that were checked end.
EarlyEnds early_ends_of(const Source& source, ShelfWriter& shelf) {
    EarlyEnds out;
    const auto view = shelf.view();
    shelf.for_each_holding_former([&](const ShelfWriter::Holding& e) {
        out.add(e.volume,
                e.holds_to < e.size && holds_a_shorter_file(source, view.pieces(e.id), e.size, e.holds_to));
    });
    return out;
}

/// Looks at the start of single entries.
class EntryBytes {
  public:
    EntryBytes(const Source& source, const ShelfWriter& shelf) : source_(source), shelf_(shelf.view()) {}

    ByteVector first_bytes(std::int64_t entry) const {
        const auto e = shelf_.entry(entry);
        return e ? first_bytes(*e) : ByteVector();
    }

    std::optional<FileEnd> end(std::int64_t entry) const {
        const auto e = shelf_.entry(entry);
        return e ? file_end(source_, shelf_.pieces(e->id), e->size) : std::nullopt;
    }

    Agreement agreement(std::int64_t entry) const {
        const auto e = shelf_.entry(entry);
        if (!e) return Agreement::unknown;
        // A lost folder is only read where its clusters still say whose they are.
        if (e->is_dir) return Agreement::agrees;
        if (e->name_certainty == NameCertainty::made_up) return Agreement::unknown;
        return compare_with_extension(first_bytes(*e), content_extension(e->shown_name())).agreement;
    }

  private:
    ByteVector first_bytes(const ShelfEntry& e) const {
        return ContentStream(source_, shelf_.pieces(e.id), e.size).first(signature_bytes);
    }

    const Source& source_;
    Shelf shelf_;
};

}  // namespace

void rate_entries(const Source& source, const std::vector<Volume>& volumes, ShelfWriter& shelf,
                  Progress& progress) {
    progress.stage("rating");
    shelf.commit();
    const auto traits = traits_of(volumes, shelf);
    const auto traits_for = [&](int volume) {
        const auto it = traits.find(volume);
        return it == traits.end() ? VolumeTraits() : it->second;
    };
    const EntryBytes starts(source, shelf);
    LaterUse later_use(traits);
    KindHabits kinds;
    Siblings siblings([&](std::int64_t entry) { return starts.first_bytes(entry); });
    Emptied emptied([&](std::int64_t entry) { return starts.first_bytes(entry); });
    SlackHabits slack([&](std::int64_t entry) { return starts.end(entry); });
    WholeFinds whole_finds;
    ForeignStarts foreign;
    std::vector<Claimant> fair_passes;
    std::vector<std::pair<std::uint64_t, std::pair<int, std::string>>> guessed;  ///< identities, by kinds
    std::vector<Claim> claims;
    shelf.for_each_claimant(
        [&](Claimant& c) {
            const auto its = traits_for(c.volume);
            // How what holds without a name ends shows how files end there.
            if (c.origin == Origin::unnamed) {
                if (c.verified || c.cut_off) whole_finds.add(c.volume, c.verified && !c.mended);
                if (!c.verified) return;
                slack.add(c.volume, c.ext, c.id);
            }
            foreign.add(c);
            // What only a fair check holds, over a layout that is assumed, may have others' bytes in it.
            const bool fair =
                c.verified && !c.strong && c.layout == Layout::assumed && c.origin != Origin::unnamed;
            if (fair) {
                fair_passes.push_back(c);
            } else {
                append_claims(c, its, claims);
            }
            if (c.origin == Origin::unnamed) return;
            later_use.add(c);
            kinds.add(c, its);
            if (c.layout == Layout::assumed && c.origin != Origin::live && !c.verified && !c.is_dir)
                guessed.push_back({c.identity, {c.volume, c.ext}});
            if (c.origin == Origin::live && !c.is_dir && c.id != 0) {
                siblings.add(c.volume, c.ext, c.id);
                slack.add(c.volume, c.ext, c.id);
            }
            if (c.origin != Origin::live && c.layout == Layout::known && rarely_holds_zeros(c.ext))
                emptied.add(c.volume, c.id);
        },
        progress);
    later_use.settle();
    foreign.settle();
    const StartLook look = [&](std::int64_t entry) { return starts.agreement(entry); };
    std::unordered_map<std::uint64_t, std::int64_t> foreign_starts;
    for (auto& c : fair_passes) {
        const auto its = traits_for(c.volume);
        const auto other = foreign.within(c, recorded_bytes(c.layout, its), look);
        if (other) foreign_starts.emplace(c.identity, *other);
        c.verified = !other;
        append_claims(c, its, claims);
    }
    const auto in_turns = settle_guesses(claims, look, progress);
    for (const auto& [identity, kind] : guessed) {
        if (in_turns.count(identity)) kinds.add_contested(kind.first, kind.second);
    }
    const ClaimMap map(std::move(claims), progress);
    if (progress.stopped()) return;
    const auto early_ends = early_ends_of(source, shelf);
    Rater rater(source, {map, traits, later_use, kinds, in_turns, siblings, emptied, slack, whole_finds,
                         early_ends, foreign_starts});
    const auto total = shelf.view().count({});
    std::uint64_t done = 0;
    std::map<int, DiscardCount> discards;
    shelf.rate_all(source.unreadable(), source.not_copied(), [&](Subject& subject) -> std::optional<Rating> {
        if (progress.stopped()) return std::nullopt;
        if (++done % 256 == 0) progress.at(done, total);
        const auto rating = rater.rate(subject);
        discards[subject.volume].count(subject);
        return rating;
    });
    // Said once for each volume, for summaries and reports.
    for (const auto& [volume, count] : discards) {
        if (!count.speaks()) continue;
        shelf.change_state([&](ScanState& state) { state.discards[volume] = {count.zeros, count.files}; });
    }
}

}  // namespace undershelf
