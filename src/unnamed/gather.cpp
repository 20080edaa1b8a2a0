#include "unnamed/gather.hpp"

#include <algorithm>
#include <atomic>
#include <limits>

#include "base/batches.hpp"
#include "base/text.hpp"
#include "unnamed/starts.hpp"

namespace undershelf {

namespace {

/// What may be read of contents that come to nothing: so much, and so many times the bytes gone through by
/// then. A source made to annoy is all starts that lead far and nowhere.
class WasteBound {
  public:
    void add(std::uint64_t bytes) { bytes_ += bytes; }
    /// From where on one may go on.
    std::uint64_t goes_on_at() const { return bytes_ <= least ? 0 : (bytes_ - least) / times; }

  private:
    static constexpr std::uint64_t least = 256 << 20, times = 16;
    std::uint64_t bytes_ = 0;
};

/// Is it the content of a member, after the member's head?
bool is_tar_member(const Source& source, std::uint64_t offset) {
    constexpr std::uint64_t block = 512;
    if (offset < block) return false;
    const auto* format = format_of_start(source.read_vector({offset - block, block}));
    return format && format->word == "tar";
}

/// Puts what was measured in the order of the source together.
class OverlapResolver {
  public:
    OverlapResolver(const Source& source, const std::function<void(Measured&&)>& take, std::uint64_t from)
        : source_(source), take_(take), done_(from) {}

    void measured(std::uint64_t offset, std::optional<Measured>&& found) {
        if (waiting_ && offset >= waiting_->range.end()) give_out();
        if (offset < done_ || !found) return;
        if (waiting_ && !ends_waiting(*found)) return;
        // That only says where it ends: what holds within shows that it does not.
        if (found->whole() && !found->proven()) {
            waiting_ = std::move(found);
            return;
        }
        done_ = found->range.end();
        take_(std::move(*found));
    }
    void finish() {
        if (waiting_) give_out();
    }
    /// Nothing that begins before is of interest any more.
    std::uint64_t covered() const { return done_; }
    /// All that begins before was given out.
    std::uint64_t done() const { return waiting_ ? waiting_->range.offset : done_; }

  private:
    bool ends_waiting(const Measured& within) {
        const bool holds = within.proven() || (within.ending == Ending::structure && within.zeros_behind &&
                                               within.range.length % start_step != 0);
        if (!holds) return false;
        const auto offset = within.range.offset;
        if (waiting_->format == "tar" && is_tar_member(source_, offset)) return false;
        // A content that ends after this one is not in it.
        const bool inside = within.range.end() <= waiting_->range.end();
        if (waiting_->format != "tar" && inside && format_named(waiting_->format)->holds_files) {
            waiting_->others_within = true;
            return false;
        }
        cut_waiting(offset);
        return true;
    }
    void give_out() {
        done_ = waiting_->range.end();
        take_(std::move(*waiting_));
        waiting_.reset();
    }
    void cut_waiting(std::uint64_t at) {
        auto& w = *waiting_;
        w.range.length = at - w.range.offset;
        w.ending = Ending::cut;
        w.cut_by = "another content begins";
        w.check.fails(std::min(w.check.holds_to, w.range.length), "another content is in it");
        give_out();
    }

    const Source& source_;
    const std::function<void(Measured&&)>& take_;
    std::optional<Measured> waiting_;
    std::uint64_t done_;
};

}  // namespace

void Places::add(const Place& start) {
    if (grids_.stands(start.offset)) {
        if (space_.contains(start.offset)) seen_.push_back(start);
        return;
    }
    // A text that begins between the steps is what an older file left behind another one's end. It may go on
    // up to where the next one begins, which then cannot be seen.
    if (!is_text(*start.format)) return;
    const auto next = grids_.next_step(start.offset);
    if (space_.contains(next)) possible_.push_back({next, start.format, false, false});
}

std::vector<Place> Places::take() {
    // What was seen comes before what is possible.
    seen_.insert(seen_.end(), possible_.begin(), possible_.end());
    std::stable_sort(seen_.begin(), seen_.end(),
                     [](const Place& a, const Place& b) { return a.offset < b.offset; });
    const auto same = [](const Place& a, const Place& b) { return a.offset == b.offset; };
    seen_.erase(std::unique(seen_.begin(), seen_.end(), same), seen_.end());
    return std::move(seen_);
}

/// What is not wanted is measured only where it may hold something that is.
bool Gathering::worth_measuring(std::size_t place) const {
    if (wanted_(*places_[place].format)) return true;
    if (!places_[place].format->holds_files) return false;
    constexpr std::size_t near = 64;
    const auto end = space_.end_of(places_[place].offset);
    for (auto i = place + 1; i < std::min(places_.size(), place + near); ++i) {
        if (places_[i].offset >= end) break;
        if (wanted_(*places_[i].format)) return true;
    }
    return false;
}

std::size_t Gathering::place_from(std::uint64_t offset) const {
    const auto it = std::lower_bound(places_.begin(), places_.end(), offset,
                                     [](const Place& p, std::uint64_t at) { return p.offset < at; });
    return static_cast<std::size_t>(it - places_.begin());
}

std::optional<Measured> Gathering::measure_at(std::size_t place, const Progress& progress,
                                              std::uint64_t& read) const {
    const auto offset = places_[place].offset;
    Stretch stretch;
    stretch.start = offset;
    stretch.end = std::min(space_.end_of(offset), grids_.end_at(offset));
    stretch.step = grids_.step_at(offset);
    stretch.next_start = [&](std::uint64_t from, const Format& own, std::uint64_t own_to) {
        for (auto next = place_from(from); next < places_.size(); ++next) {
            const auto& p = places_[next];
            if (p.offset >= stretch.end) break;
            // Texts hide starts of texts alone: what holds texts, as archives do, goes on.
            if (!p.seen && !is_text(own)) continue;
            const bool alike = p.format->family == own.family || (is_text(own) && is_text(*p.format));
            if (!alike || p.offset >= own_to || p.breaks_a_line) return p.offset;
        }
        return stretch.end;
    };
    return measure(source_, stretch, progress, read, reading_);
}

std::uint64_t Gathering::run(std::uint64_t from, const Progress& progress,
                             const std::function<void(Measured&&)>& take,
                             const std::function<void(std::uint64_t)>& reached) const {
    struct Job {
        std::size_t place = 0;
        std::optional<Measured> found;
        std::uint64_t read = 0;  ///< bytes
        bool stopped = false;
    };
    auto next = place_from(from);
    const std::function<void(Measured &&)> take_wanted = [&](Measured&& m) {
        if (wanted_(*format_named(m.format))) take(std::move(m));
    };
    OverlapResolver together(source_, take_wanted, from);
    // What lies within something that holds need not be measured; that it is known late does no harm.
    std::atomic<std::uint64_t> covered{from};
    bool stopped = false;
    WasteBound in_vain;
    std::uint64_t passed_over = 0;
    in_order<Job>(
        [&](Job& job) {
            while (next < places_.size() && (places_[next].offset < covered || !worth_measuring(next)))
                ++next;
            if (next == places_.size() || progress.stopped()) return false;
            job.place = next++;
            return true;
        },
        [&](Job& job) {
            if (places_[job.place].offset < covered) return;
            job.found = measure_at(job.place, progress, job.read);
            job.stopped = progress.stopped();
        },
        [&](Job&& job) {
            // What was not measured to its end is measured when the work goes on.
            stopped |= job.stopped;
            const auto offset = places_[job.place].offset;
            if (stopped || offset < in_vain.goes_on_at()) return;
            const bool comes_to_nothing = !job.found || !job.found->whole();
            if (comes_to_nothing && offset >= together.covered()) in_vain.add(job.read);
            const auto goes_on_at = in_vain.goes_on_at();
            if (goes_on_at > offset) passed_over += place_from(goes_on_at) - job.place - 1;
            together.measured(offset, std::move(job.found));
            covered = std::max(together.covered(), goes_on_at);
            reached(std::max(together.done(), from));
        });
    if (!stopped && !progress.stopped()) {
        together.finish();
        reached(std::numeric_limits<std::uint64_t>::max());
    }
    return passed_over;
}

}  // namespace undershelf
