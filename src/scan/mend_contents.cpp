#include "scan/mend_contents.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <map>
#include <optional>
#include <set>

#include "base/batches.hpp"
#include "base/text.hpp"
#include "content/apart.hpp"
#include "content/formats.hpp"
#include "content/signature.hpp"
#include "scan/pieces_content.hpp"

namespace undershelf {

namespace {

constexpr int most_rounds = 4;
constexpr std::uint64_t less_again = 4;  ///< what was tried before gets so much less when it is tried again

/// A content that may be mended.
struct Candidate {
    std::int64_t id = 0;
    int volume = 0;
    BrokenContent broken;
    std::uint64_t recorded_size = 0;  ///< bytes
    std::string ext, before;          ///< `before`: how it lay, in words
};

std::string in_words(const std::vector<Piece>& pieces) {
    return pieces.size() == 1 ? "it was taken to lie in one run"
                              : fmt::format("it was taken to lie in {} runs", pieces.size());
}

std::vector<Piece> pieces_of(const std::vector<ByteRange>& ranges) {
    std::vector<Piece> out;
    std::uint64_t at = 0;
    for (const auto& range : ranges) {
        Piece piece;
        piece.offset = at;
        piece.length = range.length;
        piece.source = range.offset;
        out.push_back(piece);
        at += range.length;
    }
    return out;
}

class Mending {
  public:
    Mending(const Source& source, const MendOptions& options, ShelfWriter& shelf, Progress& progress)
        : source_(source),
          options_(options),
          shelf_(shelf),
          progress_(progress),
          decoders_(options.decoder_program),
          budget_(budget_of(options.effort)),
          left_(budget_.of_run) {}

    std::uint64_t run() {
        std::uint64_t all = 0;
        for (int round = 0; round < most_rounds && !progress_.stopped(); ++round) {
            shelf_.commit();
            look();
            if (round == 1) budget_.of_file /= less_again;
            const auto mended = try_all();
            all += mended;
            if (mended == 0 && (not_tried_ == 0 || left_ == 0)) break;
        }
        if (not_tried_)
            shelf_.add_remark(fmt::format(
                "Not all broken files were mended: {} of them would have taken more trials than one run has. "
                "With --effort high more are tried.",
                grouped(not_tried_)));
        shelf_.commit();
        return all;
    }

  private:
    /// Who is sure of which bytes, and which contents are broken.
    void look() {
        const auto view = shelf_.view();
        candidates_.clear();
        volumes_.clear();
        for (const auto& v : view.volumes()) volumes_.emplace(v.number, v);
        std::vector<ByteRange> taken;
        shelf_.for_each_claimant(
            [&](Claimant& c) {
                if (c.id == 0 || c.origin == Origin::live || c.is_dir || c.verified ||
                    c.layout == Layout::known) {
                    taken.insert(taken.end(), c.ranges.begin(), c.ranges.end());
                } else if (!c.ranges.empty() && c.origin != Origin::unnamed) {
                    // What a record says of it: its first cluster.
                    const auto it = volumes_.find(c.volume);
                    const auto step = it == volumes_.end() ? 0 : it->second.cluster_size;
                    if (step)
                        taken.push_back({c.ranges.front().offset,
                                         std::min<std::uint64_t>(step, c.ranges.front().length)});
                }
            },
            progress_);
        taken_ = RangeSet(std::move(taken));
        view.for_each(options_.selection, {}, [&](const ShelfEntry& e) {
            if (may_be_mended(e)) add(view, e);
            return !progress_.stopped();
        });
        std::stable_sort(candidates_.begin(), candidates_.end(), [](const Candidate& a, const Candidate& b) {
            const auto strength = [](const Candidate& c) { return c.broken.format->strength; };
            if (strength(a) != strength(b)) return strength(a) > strength(b);
            return std::tie(a.recorded_size, a.id) < std::tie(b.recorded_size, b.id);
        });
    }

    bool may_be_mended(const ShelfEntry& e) const {
        const bool unnamed = e.origin == Origin::unnamed;
        if (e.origin == Origin::live || unnamed != options_.unnamed || e.is_dir ||
            e.layout != Layout::assumed || e.size == 0)
            return false;
        // What ends early in its place may be a shorter file: nothing says that it goes on elsewhere.
        if (!e.checked || e.complete.value_or(false)) return false;
        // Nothing is free now that was taken when it was tried last.
        const auto failed = failed_.find(e.id);
        return failed == failed_.end() || failed->second != taken_.bytes();
    }

    void add(const Shelf& view, const ShelfEntry& e) {
        const auto it = volumes_.find(e.volume.value_or(0));
        const auto* format = format_named(e.format);
        if (it == volumes_.end() || it->second.cluster_size == 0 || !format ||
            format->strength < Strength::fair || !options_.contents.wants(*format))
            return;
        const auto pieces = view.pieces(e.id);
        if (pieces.empty() || pieces.front().kind != PieceKind::stored || pieces.front().offset != 0) return;
        for (const auto& p : pieces) {
            if (p.kind != PieceKind::stored && p.kind != PieceKind::missing) return;
        }
        Candidate c;
        c.id = e.id;
        c.volume = it->first;
        c.broken = {pieces.front().source, options_.unnamed ? 0 : e.size, format};
        c.recorded_size = e.size;
        c.ext = e.ext;
        c.before = in_words(pieces);
        candidates_.push_back(std::move(c));
    }

    struct Job {
        const Candidate* candidate = nullptr;
        std::optional<MendedContent> mended;
        std::uint64_t may_cost = 0;  ///< clusters
        MendCost cost;
    };

    std::optional<Check> check(const std::vector<ByteRange>& ranges, std::uint64_t size) {
        PiecesContent content(source_, pieces_of(ranges), size, progress_);
        CheckLimits limits;
        limits.title = false;
        return decoders_.check(content, limits);
    }

    void search(Job& job) {
        const auto& c = *job.candidate;
        const auto& volume = volumes_.at(c.volume);
        const ByteRange within{
            volume.offset, std::min(volume.size, source_.size() - std::min(source_.size(), volume.offset))};
        const FreeClusters free(volume.grid_start, volume.cluster_size, within, taken_);
        if (!free.on_grid(c.broken.start) || job.may_cost == 0) return;
        MendLimits limits;
        limits.clusters = job.may_cost;
        limits.trials = std::max(limits.trials, job.may_cost);
        job.mended = mend_alone(
            source_, c.broken, free,
            [&](const auto& ranges, std::uint64_t size) { return check(ranges, size); }, limits,
            [&] { return progress_.stopped(); }, job.cost);
    }

    /// Returns how many were mended.
    std::uint64_t try_all() {
        progress_.stage("mending contents");
        std::vector<Job> done;
        std::size_t next = 0;
        in_order<Job>(
            [&](Job& job) {
                if (next == candidates_.size() || progress_.stopped()) return false;
                job.candidate = &candidates_[next++];
                // What each may take is told before any is tried: the same whatever comes of the others.
                const auto step = volumes_.at(job.candidate->volume).cluster_size;
                job.may_cost =
                    std::min(left_, share_of_file(budget_, job.candidate->recorded_size / step + 1));
                left_ -= job.may_cost;
                return true;
            },
            [&](Job& job) { search(job); },
            [&](Job&& job) {
                progress_.at(done.size() + 1, candidates_.size());
                done.push_back(std::move(job));
            });
        not_tried_ = 0;
        for (const auto& job : done) {
            left_ += job.may_cost - std::min(job.may_cost, job.cost.clusters);
            not_tried_ += job.may_cost == 0;
        }
        return settle(done);
    }

    /// Those of which another one, whose check is as strong or stronger, needs a cluster as well.
    static std::set<const Job*> contested(const std::vector<Job>& jobs) {
        std::vector<std::pair<ByteRange, const Job*>> all;
        for (const auto& job : jobs) {
            if (!job.mended) continue;
            for (const auto& range : job.mended->ranges) all.emplace_back(range, &job);
        }
        std::sort(all.begin(), all.end(),
                  [](const auto& a, const auto& b) { return a.first.offset < b.first.offset; });
        std::set<const Job*> out;
        std::vector<std::pair<std::uint64_t, const Job*>> open;  // with where each ends
        for (const auto& [range, job] : all) {
            std::erase_if(open, [&](const auto& o) { return o.first <= range.offset; });
            for (const auto& [end, other] : open) {
                if (other == job) continue;
                const auto mine = job->mended->check.strength, its = other->mended->check.strength;
                if (its >= mine) out.insert(job);
                if (mine >= its) out.insert(other);
            }
            open.emplace_back(range.end(), job);
        }
        return out;
    }

    /// Of two that need the same cluster a strong check has it; where none is stronger, neither is mended.
    std::uint64_t settle(std::vector<Job>& jobs) {
        const auto doubted = contested(jobs);
        std::uint64_t out = 0;
        for (auto& job : jobs) {
            if (!job.mended && job.may_cost > 0) failed_[job.candidate->id] = taken_.bytes();
            if (job.mended && !doubted.count(&job)) out += keep(job);
        }
        return out;
    }

    /// False where the work ended while it was read.
    bool keep(const Job& job) {
        const auto& c = *job.candidate;
        const auto& m = *job.mended;
        // Once more, for what it tells of itself.
        PiecesContent content(source_, pieces_of(m.ranges), m.size, progress_);
        auto check = decoders_.check(content, {});
        if (progress_.stopped()) return false;
        if (!check || !check->complete) check = m.check;
        shelf_.set_mended(c.id, m.size, m.ranges, {Fact::mended, m.pieces(), m.trials, c.before});
        shelf_.set_check(c.id, check, kind_of_file(c.ext, format_shown_by(check)));
        return true;
    }

    const Source& source_;
    const MendOptions& options_;
    ShelfWriter& shelf_;
    Progress& progress_;
    DecodersApart decoders_;
    MendBudget budget_;
    std::uint64_t left_;  ///< clusters that may be read in this run
    std::uint64_t not_tried_ = 0;
    std::map<int, Volume> volumes_;
    RangeSet taken_;
    std::vector<Candidate> candidates_;
    std::map<std::int64_t, std::uint64_t> failed_;  ///< by entry: how much was taken when it was tried last
};

}  // namespace

std::uint64_t mend_contents(const Source& source, const MendOptions& options, ShelfWriter& shelf,
                            Progress& progress) {
    if (options.effort == MendEffort::none) return 0;
    return Mending(source, options, shelf, progress).run();
}

}  // namespace undershelf
