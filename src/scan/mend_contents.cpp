#include "scan/mend_contents.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <map>
#include <optional>
#include <set>
#include <span>

#include "base/batches.hpp"
#include "base/text.hpp"
#include "content/apart.hpp"
#include "content/formats.hpp"
#include "content/signature.hpp"
#include "scan/mend_scene.hpp"
#include "scan/pieces_content.hpp"

namespace undershelf {

namespace {

constexpr int most_rounds = 4;
constexpr std::uint64_t part_over_starts =
    4;                                   ///< of what a file may cost this part is kept for the second look
constexpr std::uint64_t less_again = 4;  ///< what was tried before gets so much less when it is tried again

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

/// What was found for one entry.
struct Found {
    std::int64_t entry = 0;
    std::string ext;
    std::vector<ByteRange> ranges;
    std::uint64_t size = 0;  ///< bytes
    std::optional<Check> check;
    Evidence why;

    Strength strength() const { return check && check->complete ? check->strength : Strength::none; }
};

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
            scene_ = look_for_mending(shelf_, options_.of, progress_);
            if (round == 1) budget_.of_file /= less_again;
            progress_.stage("mending contents");
            not_tried_ = 0;
            const auto dealt = deal_all();
            all += dealt;
            if (dealt > 0) {
                shelf_.commit();
                scene_ = look_for_mending(shelf_, options_.of, progress_);
            }
            const auto mended = mend_all();
            all += mended;
            if (dealt + mended == 0 && (not_tried_ == 0 || left_ == 0)) break;
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
    std::optional<Check> check(const std::vector<ByteRange>& ranges, std::uint64_t size) {
        PiecesContent content(source_, pieces_of(ranges), size, progress_);
        CheckLimits limits;
        limits.title = false;
        return decoders_.check(content, limits);
    }

    FreeClusters free_of(int number, const RangeSet& taken) const {
        const auto& volume = scene_.volumes.at(number);
        const ByteRange within{
            volume.offset, std::min(volume.size, source_.size() - std::min(source_.size(), volume.offset))};
        return FreeClusters(volume.grid_start, volume.cluster_size, within, taken);
    }

    MendLimits limits_of(std::uint64_t may_cost) const {
        MendLimits out;
        out.clusters = may_cost;
        out.trials = std::max(out.trials, may_cost);
        return out;
    }

    /// Works on jobs by all cores, some at a time, each within what it may cost: that is told before any of
    /// these is tried, so that it is the same whatever comes of the others.
    template <class Job, class Work>
    void work_on(std::vector<Job>& jobs, const Work& work) {
        constexpr std::size_t at_a_time = 16;
        for (std::size_t from = 0; from < jobs.size() && !progress_.stopped(); from += at_a_time) {
            const auto some = std::span(jobs).subspan(from, std::min(at_a_time, jobs.size() - from));
            for (auto& job : some) {
                job.may_cost = std::min(left_, job.may_cost);
                left_ -= job.may_cost;
                not_tried_ += job.may_cost == 0;
            }
            std::size_t next = 0;
            in_order<Job*>(
                [&](Job*& job) {
                    if (next == some.size() || progress_.stopped()) return false;
                    job = &some[next++];
                    return true;
                },
                [&](Job* job) {
                    if (job->may_cost > 0) work(*job);
                },
                [&](Job*) { progress_.at(from + next, jobs.size()); });
            for (const auto& job : some) left_ += job.may_cost - std::min(job.may_cost, job.cost.clusters);
        }
    }

    struct DealJob {
        int volume = 0;
        std::vector<const OpenFile*> open;
        std::optional<DealtHand> hand;
        std::uint64_t may_cost = 0;  ///< clusters
        MendCost cost;
    };

    /// Stretches that several files were written to in turns. Returns how many files were laid out anew.
    std::uint64_t deal_all() {
        std::vector<DealJob> jobs;
        for (const auto& [number, open] : scene_.open) {
            const auto free = free_of(number, scene_.sure);
            std::vector<DealtFile> files;
            for (const auto& o : open) files.push_back(o.file);
            for (const auto& group : files_in_turns(files, free)) {
                DealJob job;
                job.volume = number;
                for (const auto i : group) {
                    job.open.push_back(&open[i]);
                    job.may_cost += share_of_file(budget_, files[i].size / free.step() + 1);
                }
                if (is_worth_it(job)) jobs.push_back(std::move(job));
            }
        }
        work_on(jobs, [&](DealJob& job) { deal(job); });
        std::vector<Found> found;
        for (auto& job : jobs) {
            if (job.hand) append_found(job, found);
        }
        return keep_all(found);
    }

    /// One of them has to be wanted, and the same is tried once.
    bool is_worth_it(const DealJob& job) {
        const bool wanted =
            std::any_of(job.open.begin(), job.open.end(), [](const OpenFile* o) { return o->wanted; });
        std::vector<std::int64_t> who{static_cast<std::int64_t>(scene_.sure.bytes())};
        for (const auto* o : job.open) who.push_back(o->id);
        return wanted && dealt_before_.insert(std::move(who)).second;
    }

    void deal(DealJob& job) {
        const auto free = free_of(job.volume, scene_.sure);
        std::vector<DealtFile> files;
        for (const auto* o : job.open) files.push_back(o->file);
        job.hand = deal_out(
            files, free, [&](const auto& ranges, std::uint64_t size) { return check(ranges, size); },
            together(job), limits_of(job.may_cost), [&] { return progress_.stopped(); }, job.cost);
        if (job.hand && job.open.size() == 1 && job.hand->proven == 0 && !is_left_over(job)) job.hand.reset();
    }

    /// One alone goes on where others' clusters end, which it may have lost to them. Were all those that are
    /// proven between its pieces there before its last change? And where no check says that it holds, is its
    /// length what is left, to the cluster?
    bool is_left_over(const DealJob& job) const {
        const auto& open = *job.open.front();
        const auto& content = job.hand->contents.front();
        const auto first = content.ranges.front().offset, last = content.ranges.back().offset;
        auto it = std::lower_bound(scene_.proven.begin(), scene_.proven.end(), first,
                                   [](const auto& p, std::uint64_t at) { return p.first.offset < at; });
        bool any = false;
        for (; it != scene_.proven.end() && it->first.offset < last; ++it) {
            any = true;
            if (!open_at_once(open.written, it->second)) return false;
        }
        if (!any || content.holds()) return any;
        const auto free = free_of(job.volume, scene_.taken);
        const auto end = content.ranges.back().end() + free.step() - 1;
        const auto next = end - (end - open.file.start) % free.step();
        return free.on_grid(next) && !free.is_free(next);
    }

    static bool together(const DealJob& job) {
        for (const auto* a : job.open) {
            for (const auto* b : job.open) {
                if (!open_at_once(a->written, b->written)) return false;
            }
        }
        return true;
    }

    void append_found(DealJob& job, std::vector<Found>& out) const {
        for (std::size_t i = 0; i < job.open.size(); ++i) {
            const auto& open = *job.open[i];
            auto& dealt = job.hand->contents[i];
            if (!open.wanted || dealt.ranges.empty() || (dealt.ranges == open.lies && !dealt.proven()))
                continue;
            Found found;
            found.entry = open.id;
            found.ext = open.ext;
            found.size = open.file.size;
            const auto pieces = dealt.ranges.size();
            const auto before = lies_in_words(open.lies.size());
            // Two that hold at once do not so by luck, however many ways were tried.
            const bool alone = dealt.proven() && job.hand->proven < 2;
            found.why = alone                  ? Evidence{Fact::mended, pieces, job.hand->close, before}
                        : job.open.size() == 1 ? Evidence{Fact::left_over, pieces, 0, before}
                                               : Evidence{Fact::dealt, pieces, job.hand->telling, before};
            found.ranges = std::move(dealt.ranges);
            found.check = std::move(dealt.check);
            out.push_back(std::move(found));
        }
    }

    struct MendJob {
        const MendCandidate* candidate = nullptr;
        std::optional<MendedContent> mended;
        std::uint64_t may_cost = 0;  ///< clusters
        MendCost cost;
    };

    /// What is left, one by one. Returns how many were mended.
    std::uint64_t mend_all() {
        std::vector<MendJob> jobs;
        for (const auto& c : scene_.broken) {
            // Nothing is free now that was taken when it was tried last.
            const auto failed = failed_.find(c.id);
            if (failed != failed_.end() && failed->second == scene_.taken.bytes()) continue;
            MendJob job;
            job.candidate = &c;
            job.may_cost =
                share_of_file(budget_, c.recorded_size / scene_.volumes.at(c.volume).cluster_size + 1);
            jobs.push_back(std::move(job));
        }
        work_on(jobs, [&](MendJob& job) { mend(job); });
        std::vector<Found> found;
        for (auto& job : jobs) {
            if (!job.mended) {
                if (job.may_cost > 0) failed_[job.candidate->id] = scene_.taken.bytes();
                continue;
            }
            auto& m = *job.mended;
            Evidence why{Fact::mended, m.pieces(), m.close, job.candidate->before};
            found.push_back({job.candidate->id, job.candidate->ext, std::move(m.ranges), m.size,
                             std::move(m.check), std::move(why)});
        }
        return keep_all(found);
    }

    /// First as if all that is recorded were still there; what is older may have been written over.
    void mend(MendJob& job) {
        mend_around(job, scene_.taken, job.may_cost - job.may_cost / part_over_starts);
        if (!job.mended && !options_.of.unnamed && !progress_.stopped())
            mend_around(job, scene_.firm, job.may_cost - std::min(job.may_cost, job.cost.clusters));
    }

    void mend_around(MendJob& job, const RangeSet& taken, std::uint64_t may_cost) {
        const auto& c = *job.candidate;
        const auto free = free_of(c.volume, taken);
        if (!free.on_grid(c.broken.start) || may_cost == 0) return;
        job.mended = mend_alone(
            source_, c.broken, free,
            [&](const auto& ranges, std::uint64_t size) { return check(ranges, size); }, limits_of(may_cost),
            [&] { return progress_.stopped(); }, job.cost);
    }

    /// Those of which another one, whose check is as strong or stronger, needs a cluster as well.
    static std::set<const Found*> contested(const std::vector<Found>& all_found) {
        std::vector<std::pair<ByteRange, const Found*>> all;
        for (const auto& found : all_found) {
            for (const auto& range : found.ranges) all.emplace_back(range, &found);
        }
        std::sort(all.begin(), all.end(),
                  [](const auto& a, const auto& b) { return a.first.offset < b.first.offset; });
        std::set<const Found*> out;
        std::vector<std::pair<std::uint64_t, const Found*>> open;  // with where each ends
        for (const auto& [range, one] : all) {
            const auto offset = range.offset;
            std::erase_if(open, [offset](const auto& o) { return o.first <= offset; });
            for (const auto& [end, other] : open) {
                if (other == one) continue;
                const auto mine = one->strength(), its = other->strength();
                if (its >= mine) out.insert(one);
                if (mine >= its) out.insert(other);
            }
            open.emplace_back(range.end(), one);
        }
        return out;
    }

    /// Of two that need the same cluster a strong check has it; where none is stronger, neither is mended.
    std::uint64_t keep_all(std::vector<Found>& all) {
        const auto doubted = contested(all);
        std::uint64_t out = 0;
        for (const auto& found : all) out += !doubted.count(&found) && keep(found);
        return out;
    }

    /// False where the work ended while it was read.
    bool keep(const Found& found) {
        auto check = found.check;
        if (found.strength() > Strength::none) {
            // Once more, for what it tells of itself.
            PiecesContent content(source_, pieces_of(found.ranges), found.size, progress_);
            check = decoders_.check(content, {});
            if (progress_.stopped()) return false;
            if (!check || !check->complete) check = found.check;
        }
        shelf_.set_mended(found.entry, found.size, found.ranges, found.why);
        if (check) {
            shelf_.set_check(found.entry, check, kind_of_file(found.ext, format_shown_by(check)));
        }
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
    MendScene scene_;
    std::map<std::int64_t, std::uint64_t> failed_;  ///< by entry: how much was taken when it was tried last
    std::set<std::vector<std::int64_t>> dealt_before_;
};

}  // namespace

std::uint64_t mend_contents(const Source& source, const MendOptions& options, ShelfWriter& shelf,
                            Progress& progress) {
    if (options.effort == MendEffort::none) return 0;
    return Mending(source, options, shelf, progress).run();
}

}  // namespace undershelf
