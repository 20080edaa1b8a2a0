#include "mend/alone.hpp"

#include <algorithm>
#include <set>
#include <utility>

#include "mend/ends.hpp"
#include "unnamed/measure.hpp"

namespace undershelf {

namespace {

/// Where no length is recorded, decoding to some end may be luck.
Strength least_strength(const BrokenContent& broken) {
    return broken.size ? Strength::fair : Strength::strong;
}

class Search {
  public:
    Search(const Source& source, const BrokenContent& broken, const FreeClusters& free,
           const CheckRanges& check, const MendLimits& limits, const std::function<bool()>& stopped)
        : source_(source),
          broken_(broken),
          free_(free),
          check_(check),
          limits_(limits),
          stopped_(stopped),
          step_(free.step()) {}

    std::optional<MendedContent> run() {
        if (wanted() > limits_.most) return std::nullopt;
        if (broken_.size == 0) step_over();
        if (done_ || broken_.format->strength < least_strength(broken_)) return std::move(done_);
        std::vector<std::uint64_t> lay{broken_.start};
        fill(lay);
        auto best = tried(lay);
        if (done_ || !best) return std::move(done_);
        const auto plain = lay;
        const auto first = *best;
        if (broken_.size && lay.size() == wanted() && lay.size() > 1) {
            try_anew(plain);
            if (!done_) try_turns(lay, *best);
            if (!done_) try_two_pieces(plain, first);
        }
        // Each break that is found lets it hold further; where none does, it ends.
        for (bool again = lay != plain;; again = false) {
            while (!done_ && go_on(lay, *best)) {
            }
            if (done_ || !again) break;
            // What looked like turns may have been luck.
            lay = plain;
            best = first;
        }
        return std::move(done_);
    }
    MendCost cost() const { return {trials_, clusters_}; }

  private:
    /// Up to where a layout may be right.
    static std::uint64_t reached(const Check& check) { return std::max(check.holds_to, check.noticed_at); }

    std::size_t wanted() const {
        return static_cast<std::size_t>(broken_.size ? (broken_.size + step_ - 1) / step_ : horizon_);
    }

    /// On in ascending order through what is free, up to its length.
    void fill(std::vector<std::uint64_t>& lay) const { fill_to(lay, wanted()); }

    bool spent() const { return trials_ >= limits_.trials || clusters_ >= limits_.clusters || stopped_(); }

    /// What a check says of a layout; nothing where that was not to be had, or the layout is too short.
    std::optional<Check> tried(std::vector<std::uint64_t>& lay) {
        auto out = tried_so(lay);
        // Of unknown length, it goes on after what was laid out.
        while (out && !done_ && broken_.size == 0 && out->cut && horizon_ < limits_.longest &&
               out->holds_to + step_ >= lay.size() * std::uint64_t{step_} && !spent()) {
            horizon_ = std::min(limits_.longest, horizon_ * 2);
            const auto before = lay.size();
            fill(lay);
            if (lay.size() == before) break;
            out = tried_so(lay);
        }
        return out;
    }
    std::optional<Check> tried_so(const std::vector<std::uint64_t>& lay) {
        const auto size = broken_.size ? broken_.size : lay.size() * std::uint64_t{step_};
        if (lay.size() * std::uint64_t{step_} < size) return std::nullopt;
        ++trials_;
        auto out = check_(ranges_of(lay, size, step_), size);
        if (!out || !out->finished) return std::nullopt;
        close_ += reached(*out) + step_ >= size;
        // Laying out costs as well, if less than reading.
        constexpr std::uint64_t laid_out_for_one = 64;
        clusters_ += reached(*out) / step_ + 1 + lay.size() / laid_out_for_one;
        const bool ends =
            out->complete && (broken_.size == 0 ? out->holds_to > 0 : out->holds_to == broken_.size);
        if (ends && out->strength >= least_strength(broken_) && !out->loose_end) accept(lay, *out);
        return out;
    }

    void accept(const std::vector<std::uint64_t>& lay, const Check& check) {
        MendedContent found;
        found.size = check.holds_to;
        if (broken_.size == 0) {
            const auto last = lay[(found.size - 1) / step_];
            found.size += bytes_after_end(source_, last + (found.size - 1) % step_ + 1, last + step_);
        }
        found.ranges = ranges_of(lay, found.size, step_);
        found.check = check;
        found.close = std::max<std::uint64_t>(close_, 1);
        done_ = std::move(found);
    }

    /// What holds once it steps over those that lie within it needs no further trials, and so no strong check
    /// against their luck. Where a folder was made for one of these, its cluster may be between as well: it
    /// is zeros where somebody wiped it.
    void step_over() {
        std::set<std::vector<std::uint64_t>> before;
        for (const bool zeros_too : {false, true}) {
            for (const std::uint64_t longest : {std::uint64_t{64}, std::uint64_t{1024}, limits_.longest}) {
                if (spent()) return;
                const auto lay = stepping(longest, zeros_too);
                if (!before.insert(lay).second) continue;
                const auto check = tried_so(lay);
                if (done_) return;
                if (check && check->complete) {
                    const bool several = ranges_of(lay, check->holds_to, step_).size() > 1;
                    if (several && !check->loose_end && check->strength > Strength::none) accept(lay, *check);
                    break;
                }
            }
            if (done_) return;
        }
    }

    /// On through what is free, up to a number of clusters.
    std::vector<std::uint64_t> stepping(std::uint64_t longest, bool over_zeros) {
        std::vector<std::uint64_t> out{broken_.start};
        for (auto at = free_.after(broken_.start); at && out.size() < longest; at = free_.after(*at)) {
            if (!over_zeros || !zeros_before_taken(*at)) out.push_back(*at);
        }
        return out;
    }

    /// Are there zeros from here to the next cluster that is taken, which is near?
    bool zeros_before_taken(std::uint64_t offset) {
        constexpr std::uint64_t near = 4;
        std::uint64_t free = 0;
        while (free < near && free_.is_free(offset + free * step_)) ++free;
        if (free == near) return false;
        for (std::uint64_t i = 0; i < free; ++i) {
            if (!glance(offset + i * step_).zeros) return false;
        }
        return free > 0;
    }

    Glance glance(std::uint64_t offset) {
        constexpr std::uint64_t glances_for_one = 16;
        clusters_ += ++glances_ % glances_for_one == 0;
        return glance_at(source_, offset, step_);
    }

    bool fits(std::uint64_t offset) { return may_go_on(*broken_.format, glance(offset)); }

    /// The layout up to `index`, and then on from another cluster.
    std::vector<std::uint64_t> turned(const std::vector<std::uint64_t>& lay, std::size_t index,
                                      std::uint64_t to) const {
        std::vector<std::uint64_t> out(lay.begin(), lay.begin() + static_cast<std::ptrdiff_t>(index));
        out.push_back(to);
        fill(out);
        return out;
    }

    /// Calls `visit` for the clusters that may be after the one before `index`, in the order in which drivers
    /// take them: ascending, and then from the start of the volume. Ends when it says so.
    template <class Visit>
    void each_candidate(const std::vector<std::uint64_t>& lay, std::size_t index, std::uint64_t reach,
                        const Visit& visit) {
        const auto before = lay[index - 1];
        std::uint64_t seen = 0;
        const auto offer = [&](std::uint64_t offset) {
            const auto used =
                std::find(lay.begin(), lay.begin() + static_cast<std::ptrdiff_t>(index), offset);
            const bool new_one =
                used == lay.begin() + static_cast<std::ptrdiff_t>(index) && offset != lay[index];
            return new_one && fits(offset) && visit(offset);
        };
        for (auto at = free_.after(before); at && seen < reach && !spent(); at = free_.after(*at), ++seen) {
            if (offer(*at)) return;
        }
        for (auto at = free_.first(); at && *at < before && seen < reach && !spent();
             at = free_.after(*at), ++seen) {
            if (offer(*at)) return;
        }
    }

    /// Finds where it goes on from where it holds. False where that is not found.
    bool go_on(std::vector<std::uint64_t>& lay, Check& best) {
        if (best.complete && broken_.size && best.holds_to < broken_.size) return false;  // it ends early
        const auto fails_in =
            static_cast<std::size_t>(std::min<std::uint64_t>(reached(best) / step_, lay.size() - 1));
        // A reader may notice a wrong cluster somewhat later, and may say no more than where the structure
        // begins that is broken: the break is near that place, before or after it. Most go on near by as
        // well.
        constexpr std::size_t most_after = 8, most_before = 16;
        constexpr std::uint64_t near = 24;
        const auto late =
            std::min<std::size_t>(most_before, static_cast<std::size_t>(broken_.format->delay / step_) + 1);
        for (const auto reach : {near, limits_.reach}) {
            const bool wide = reach != near;
            for (std::size_t on = 0; on <= (wide ? 1 : most_after); ++on) {
                if (turn(lay, best, fails_in + on, reach)) return !done_;
            }
            for (std::size_t back = 1; back <= (wide ? 1 : late) && back < fails_in; ++back) {
                if (turn(lay, best, fails_in - back, reach)) return !done_;
            }
        }
        return false;
    }

    /// Tries what may be at `index`. True where one lets it hold on beyond its own cluster, or to its end.
    bool turn(std::vector<std::uint64_t>& lay, Check& best, std::size_t index, std::uint64_t reach) {
        if (index == 0 || index >= lay.size() || spent()) return false;
        bool found = false;
        each_candidate(lay, index, reach, [&](std::uint64_t offset) {
            auto other = turned(lay, index, offset);
            const auto said = tried(other);
            if (done_) return true;
            if (!said || reached(*said) <= reached(best) ||
                reached(*said) < (index + 1) * std::uint64_t{step_})
                return false;
            lay = std::move(other);
            best = *said;
            return found = true;
        });
        return found || done_;
    }

    /// Where the end of the volume is within it, it goes on in one piece after that, somewhere before. One
    /// place alone where a weak check holds is good enough.
    void try_anew(const std::vector<std::uint64_t>& lay) {
        const auto anew =
            static_cast<std::size_t>(std::is_sorted_until(lay.begin(), lay.end()) - lay.begin());
        if (anew == lay.size()) return;
        std::vector<std::pair<std::vector<std::uint64_t>, Check>> weak;
        each_candidate(lay, anew, limits_.reach, [&](std::uint64_t offset) {
            auto other = turned(lay, anew, offset);
            const auto said = tried(other);
            if (!done_ && said && said->complete && said->holds_to == broken_.size && !said->loose_end)
                weak.emplace_back(std::move(other), *said);
            return done_ || weak.size() > 1;
        });
        if (!done_ && weak.size() == 1 && !spent()) accept(weak.front().first, weak.front().second);
    }

    /// Files that were open at once take turns, as a rule in runs of one length: so many clusters, then as
    /// many for each of the others, until these end, and then the rest in one piece.
    void try_turns(std::vector<std::uint64_t>& lay, Check& best) {
        const auto most = limits_.clusters / 4;
        const auto n = lay.size();
        const bool tells = reached(best) >= step_;
        const auto fails_in = static_cast<std::size_t>(reached(best) / step_);
        std::vector<std::size_t> runs;
        for (const std::size_t run : {1, 2, 4, 8, 16, 32, 3, 6, 12, 64, 128}) {
            // Where the reader tells where it fails, the first run ends there.
            if (run < n && (!tells || run + 1 >= fails_in)) runs.push_back(run);
        }
        std::vector<std::uint64_t> further;
        for (const auto run : runs) {
            for (const std::size_t others : {1, 2, 3}) {
                const auto turns = (n - 1) / run;
                for (auto turn = turns; turn > 0; --turn) {
                    if (done_ || spent() || clusters_ > most) return;
                    auto other = in_turns(n, run, run * others, turn);
                    if (other.size() < n || other == lay) continue;
                    const auto said = tried(other);
                    if (done_) return;
                    // The first turns may be right even so: from there the others are looked for one by one.
                    if (said && reached(*said) > reached(best) &&
                        reached(*said) >= (2 * run) * std::uint64_t{step_}) {
                        best = *said;
                        further = std::move(other);
                    }
                }
            }
        }
        if (!further.empty()) lay = std::move(further);
    }

    /// `turns` times a gap after a run; the rest in one piece. What somebody has is stepped over.
    std::vector<std::uint64_t> in_turns(std::size_t n, std::size_t run, std::size_t gap,
                                        std::size_t turns) const {
        std::vector<std::uint64_t> out{broken_.start};
        for (std::size_t turn = 0; turn < turns && out.size() < n; ++turn) {
            fill_to(out, std::min(n, (turn + 1) * run));
            if (out.size() >= n || out.size() < (turn + 1) * run) return out;
            // The gap is others' clusters, known or not.
            const auto next = free_.after(out.back() + gap * std::uint64_t{step_});
            if (!next) return out;
            out.push_back(*next);
        }
        fill_to(out, n);
        return out;
    }
    /// At the end of a volume drivers begin anew.
    void fill_to(std::vector<std::uint64_t>& lay, std::size_t n) const {
        bool anew = lay.back() < broken_.start;
        while (lay.size() < n) {
            auto next = free_.after(lay.back());
            if (!next && !std::exchange(anew, true)) next = free_.first();
            if (!next || (anew && *next >= broken_.start)) return;
            lay.push_back(*next);
        }
    }

    /// Where its first cluster and its last are known, the break between two pieces is found by the check
    /// alone. What may be its last cluster shows in the cluster: by the format's end mark, or by the zeros
    /// after its end.
    void try_two_pieces(const std::vector<std::uint64_t>& lay, const Check& first) {
        std::vector<std::uint64_t> sure, possible;
        std::uint64_t seen = 0;
        for (auto at = free_.after(broken_.start); at && seen < limits_.reach;
             at = free_.after(*at), ++seen) {
            const auto fit = fits_as_end(source_, *at, step_, broken_.size, *broken_.format);
            if (fit == 2) sure.push_back(*at);
            if (fit == 1) possible.push_back(*at);
        }
        const auto most = limits_.clusters / 4 * 3;
        for (const auto* ends : {&sure, &possible}) {
            for (const auto end : *ends) {
                if (done_ || spent() || clusters_ > most) return;
                try_end(lay, first, end);
            }
        }
    }

    void try_end(const std::vector<std::uint64_t>& lay, const Check& first, std::uint64_t end) {
        const auto n = lay.size();
        // The second piece from its end on backwards.
        std::vector<std::uint64_t> tail{end};
        while (tail.size() < n - 1) {
            const auto before = free_.before(tail.back());
            if (!before || *before <= broken_.start) break;
            tail.push_back(*before);
        }
        // The first piece reaches no further than to where it fails.
        const auto most = std::min<std::size_t>(n - 1, static_cast<std::size_t>(first.holds_to / step_) + 1);
        // A reader that tells where it fails has told enough after a few; others are tried at every place.
        const auto tells = broken_.format->delay / step_ + 2;
        const bool anywhere = broken_.format->word == "jpeg" || first.holds_to < step_;
        std::size_t tries = 0;
        for (auto index = first.holds_to < step_ ? n - 1 : most; index > 0 && !spent() && !done_; --index) {
            if (!anywhere && ++tries > tells) return;
            if (n - index > tail.size()) continue;
            if (tail[n - index - 1] <= lay[index - 1]) continue;
            std::vector<std::uint64_t> other(lay.begin(), lay.begin() + static_cast<std::ptrdiff_t>(index));
            other.insert(other.end(), tail.rend() - static_cast<std::ptrdiff_t>(n - index), tail.rend());
            tried(other);
        }
    }

    const Source& source_;
    const BrokenContent& broken_;
    const FreeClusters& free_;
    const CheckRanges& check_;
    const MendLimits& limits_;
    const std::function<bool()>& stopped_;
    std::uint32_t step_;
    std::uint64_t horizon_ = 64;  ///< clusters that a content of unknown length is laid out for
    std::uint64_t trials_ = 0, close_ = 0, clusters_ = 0, glances_ = 0;
    std::optional<MendedContent> done_;
};

}  // namespace

std::optional<MendedContent> mend_alone(const Source& source, const BrokenContent& broken,
                                        const FreeClusters& free, const CheckRanges& check,
                                        const MendLimits& limits, const std::function<bool()>& stopped,
                                        MendCost& cost) {
    if (!broken.format || (broken.size && broken.format->strength < least_strength(broken)))
        return std::nullopt;
    Search search(source, broken, free, check, limits, stopped);
    auto out = search.run();
    cost += search.cost();
    return out;
}

}  // namespace undershelf
