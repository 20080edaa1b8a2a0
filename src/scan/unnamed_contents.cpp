#include "scan/unnamed_contents.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <chrono>

#include "base/print.hpp"
#include "base/text.hpp"
#include "content/apart.hpp"
#include "scan/content_starts.hpp"
#include "unnamed/entry.hpp"
#include "unnamed/gather.hpp"

namespace undershelf {

namespace {

constexpr std::chrono::milliseconds between_saves{400};

/// All that decides what the pass finds: where it is the same, it goes on; else it begins anew.
std::string basis(const FreeSpace& space, const std::vector<Place>& places, const std::string& wanted) {
    Print print;
    for (const auto& r : space.claimed().ranges()) print.add(r.offset).add(r.length);
    for (const auto& p : places) print.add(p.offset).add(std::uint64_t{p.breaks_a_line});
    return fmt::format("{:016x} {}", print.value(), wanted);
}

/// What is named already: who has which space with a good claim, and where lost files begin.
class Named {
  public:
    explicit Named(const ShelfWriter& shelf) {
        shelf.for_each_named([&](const NamedContent& c) {
            append_good_claims(c, claimed_);
            if (c.origin != Origin::live && !c.is_dir && !c.pieces.empty() &&
                c.pieces.front().kind == PieceKind::stored && c.pieces.front().offset == 0)
                places_.push_back({c.pieces.front().source, c.size});
        });
        std::sort(places_.begin(), places_.end(), before);
    }
    RangeSet claimed() { return RangeSet(std::move(claimed_)); }
    /// Is a lost file of this length said to be there?
    bool has(const ByteRange& range) const {
        return std::binary_search(places_.begin(), places_.end(), range, before);
    }

  private:
    static bool before(const ByteRange& a, const ByteRange& b) {
        return std::pair(a.offset, a.length) < std::pair(b.offset, b.length);
    }
    std::vector<ByteRange> claimed_, places_;
};

/// Until all are rated: what holds is as good as its check.
Rating first_rating(const Measured& found) {
    if (found.proven()) return {0.99, 1, Grade::verified};
    return {0.5, found.whole() ? 1 : 0.5, Grade::doubtful};
}

}  // namespace

std::uint64_t find_unnamed(const Source& source, const Narrowing& wanted, const std::string& decoder_program,
                           ShelfWriter& shelf, Progress& progress) {
    progress.stage("looking for contents without names");
    progress.counts_bytes();
    shelf.commit();
    Named named(shelf);
    const FreeSpace space(named.claimed(), source.size());
    const Grids grids(shelf.view().volumes());
    Places gathered(space, grids);
    for_each_start(shelf, [&](const Place& start) { gathered.add(start); });
    const auto places = gathered.take();
    std::uint64_t from = 0;
    if (const auto now = basis(space, places, wanted.words()); shelf.state().unnamed_basis == now) {
        from = shelf.state().unnamed_reached;
    } else {
        shelf.change_state([&](ScanState& state) {
            state.unnamed_basis = now;
            state.unnamed_reached = 0;
        });
    }
    // What came after the place that was saved comes again.
    shelf.take_out_unnamed(from);
    DecodersApart decoders(decoder_program);
    const Gathering gathering(
        source, space, grids, places, [&](const Format& f) { return wanted.may_want(f); }, decoders);
    std::uint64_t count = 0, done = from;
    auto saved = std::chrono::steady_clock::now();
    const auto save = [&] {
        shelf.change_state([&](ScanState& state) { state.unnamed_reached = done; });
        shelf.commit();
        saved = std::chrono::steady_clock::now();
    };
    const auto passed_over = gathering.run(
        from, progress,
        [&](Measured&& found) {
            if (named.has(found.range)) return;
            if (!wanted.wants(*format_named(found.format))) return;
            std::optional<Check> check;
            if (!found.check.format.empty()) check = found.check;
            const auto volume = grids.volume_at(found.range.offset);
            const auto entry = unnamed_entry(found, source.size());
            shelf.add_unnamed(volume.value_or(ShelfWriter::in_no_volume), entry,
                              sorting_of(entry, format_named(found.format)), first_rating(found),
                              found.format, check);
            progress.found(++count);
        },
        [&](std::uint64_t reached) {
            done = reached;
            progress.at(std::min(reached, source.size()), source.size());
            if (std::chrono::steady_clock::now() - saved >= between_saves) save();
        });
    save();
    if (passed_over)
        shelf.add_remark(fmt::format("Skipped {} possible starts: too many before them were false.",
                                     grouped(passed_over)));
    if (!progress.stopped()) shelf.unmark_set_aside();
    shelf.commit();
    return count;
}

}  // namespace undershelf
