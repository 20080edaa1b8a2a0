#include "scan/mend_scene.hpp"

#include <fmt/format.h>

#include <algorithm>

#include "content/formats.hpp"

namespace undershelf {

namespace {

/// Drivers record seconds, and the clock of a camera may be set between.
constexpr std::int64_t slack = 10 * Timestamp::per_second;

class Looking {
  public:
    Looking(ShelfWriter& shelf, const MendSelection& of, const Progress& progress)
        : shelf_(shelf), view_(shelf.view()), of_(of), progress_(progress) {}

    MendScene run() {
        for (const auto& v : view_.volumes()) out_.volumes.emplace(v.number, v);
        shelf_.for_each_claimant([&](Claimant& c) { take(c); }, progress_);
        out_.firm = RangeSet(firm_);
        sure_.insert(sure_.end(), firm_.begin(), firm_.end());
        out_.sure = RangeSet(sure_);
        auto taken = std::move(sure_);
        taken.insert(taken.end(), starts_.begin(), starts_.end());
        out_.taken = RangeSet(std::move(taken));
        std::sort(out_.proven.begin(), out_.proven.end(),
                  [](const auto& a, const auto& b) { return a.first.offset < b.first.offset; });
        view_.for_each(of_.selection, {}, [&](const ShelfEntry& e) {
            if (may_be_mended(e)) add_broken(e);
            return !progress_.stopped();
        });
        std::stable_sort(
            out_.broken.begin(), out_.broken.end(), [](const MendCandidate& a, const MendCandidate& b) {
                const auto strength = [](const MendCandidate& c) { return c.broken.format->strength; };
                if (strength(a) != strength(b)) return strength(a) > strength(b);
                return std::tie(a.recorded_size, a.id) < std::tie(b.recorded_size, b.id);
            });
        if (!of_.unnamed) settle_open();
        return std::move(out_);
    }

  private:
    static Written written(const Claimant& c) {
        const auto known = [](std::int64_t t) { return t != unknown_rank; };
        Written out;
        // What no clock shows is still far from the ends of the type.
        const auto within = [](std::int64_t t) { return std::clamp(t, -(INT64_MAX / 2), INT64_MAX / 2); };
        out.from = within(known(c.created) ? c.created : c.modified);
        out.to = within(std::max(c.created, c.modified));
        out.kept = c.origin == Origin::former && !c.deleted_before;
        return out;
    }

    void take(const Claimant& c) {
        const bool lost_file = c.id != 0 && c.origin != Origin::live && !c.is_dir;
        if (!lost_file || c.verified || c.mended || c.layout == Layout::known) {
            auto& held = !lost_file || c.verified || c.mended ? firm_ : sure_;
            held.insert(held.end(), c.ranges.begin(), c.ranges.end());
            if (lost_file)
                for (const auto& range : c.ranges) out_.proven.emplace_back(range, written(c));
            return;
        }
        // Others step over what holds, by whichever check.
        if (c.holds) starts_.insert(starts_.end(), c.ranges.begin(), c.ranges.end());
        if (c.ranges.empty() || c.origin == Origin::unnamed || c.contradicted) return;
        // What a record says of it: its first cluster.
        const auto it = out_.volumes.find(c.volume);
        const auto step = it == out_.volumes.end() ? 0 : it->second.cluster_size;
        if (step == 0) return;
        const auto start = c.ranges.front().offset;
        // What a weak check contradicts was mostly written over.
        if (!c.fails_weakly)
            starts_.push_back({start, std::min<std::uint64_t>(step, c.ranges.front().length)});
        if (c.size == 0 || it->second.grid_start > start || (start - it->second.grid_start) % step != 0)
            return;
        OpenFile open;
        open.id = c.id;
        open.file = {start, c.size, nullptr, false};
        open.lies = c.ranges;
        open.written = written(c);
        open.ext = c.ext;
        out_.open[c.volume].push_back(std::move(open));
    }

    /// Ascending, without those that two files claim to begin at, or whose first cluster is another's.
    void settle_open() {
        for (auto& [volume, files] : out_.open) {
            std::sort(files.begin(), files.end(),
                      [](const OpenFile& a, const OpenFile& b) { return a.file.start < b.file.start; });
            std::vector<OpenFile> kept;
            for (std::size_t i = 0; i < files.size();) {
                auto next = i + 1;
                while (next < files.size() && files[next].file.start == files[i].file.start) ++next;
                const bool one = next == i + 1;
                if (one && !out_.sure.touches({files[i].file.start, 1})) kept.push_back(std::move(files[i]));
                i = next;
            }
            files = std::move(kept);
            for (auto& file : files) look_at(file);
        }
    }

    void look_at(OpenFile& open) {
        const auto entry = view_.entry(open.id);
        if (!entry || !entry->checked) return;
        open.file.format = format_named(entry->format);
        open.file.holds_anyhow = entry->complete.value_or(false);
        open.wanted = wanted_.count(open.id) > 0;
    }

    bool may_be_mended(const ShelfEntry& e) {
        const bool unnamed = e.origin == Origin::unnamed;
        if (e.origin == Origin::live || unnamed != of_.unnamed || e.is_dir || e.layout != Layout::assumed ||
            e.size == 0)
            return false;
        wanted_.insert(e.id);
        // What ends early in its place may be a shorter file: nothing says that it goes on elsewhere.
        return e.checked && !e.complete.value_or(false);
    }

    void add_broken(const ShelfEntry& e) {
        const auto it = out_.volumes.find(e.volume.value_or(0));
        const auto* format = format_named(e.format);
        if (it == out_.volumes.end() || it->second.cluster_size == 0 || !format ||
            !of_.contents.wants(*format))
            return;
        const auto pieces = view_.pieces(e.id);
        if (pieces.empty() || pieces.front().kind != PieceKind::stored || pieces.front().offset != 0) return;
        for (const auto& p : pieces) {
            if (p.kind != PieceKind::stored && p.kind != PieceKind::missing) return;
        }
        MendCandidate c;
        c.id = e.id;
        c.volume = it->first;
        c.broken = {pieces.front().source, of_.unnamed ? 0 : e.size, format};
        c.recorded_size = e.size;
        c.before = lies_in_words(pieces.size());
        c.ext = e.ext;
        out_.broken.push_back(std::move(c));
    }

    ShelfWriter& shelf_;
    const Shelf view_;
    const MendSelection& of_;
    const Progress& progress_;
    MendScene out_;
    std::vector<ByteRange> firm_, sure_, starts_;
    std::set<std::int64_t> wanted_;
};

}  // namespace

bool open_at_once(const Written& a, const Written& b) {
    return (a.kept && b.kept) || (a.from <= b.to + slack && b.from <= a.to + slack);
}

std::string lies_in_words(std::size_t runs) {
    return runs == 1 ? "it was taken to lie in one run" : fmt::format("it was taken to lie in {} runs", runs);
}

MendScene look_for_mending(ShelfWriter& shelf, const MendSelection& of, const Progress& progress) {
    return Looking(shelf, of, progress).run();
}

}  // namespace undershelf
