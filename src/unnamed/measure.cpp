#include "unnamed/measure.hpp"

#include <algorithm>

#include "base/text.hpp"
#include "content/formats.hpp"
#include "content/glance.hpp"
#include "content/signature.hpp"
#include "content/text/text.hpp"
#include "unnamed/plain_text.hpp"

namespace undershelf {

namespace {

/// A stretch of a source as a content; once the work should end there are no more bytes.
class SourceContent final : public Content {
  public:
    SourceContent(const Source& source, const ByteRange& range, const Progress& progress, std::uint64_t& read)
        : source_(source), range_(range), progress_(progress), read_(read) {}

    std::uint64_t size() const override { return range_.length; }
    std::size_t read(std::uint64_t offset, MutableBytes out) override {
        if (offset >= range_.length || progress_.stopped()) return 0;
        const auto there =
            out.first(static_cast<std::size_t>(std::min<std::uint64_t>(out.size(), range_.length - offset)));
        read_ += there.size();
        looked_ = std::max(looked_, offset + there.size());
        const auto missing = source_.read(range_.offset + offset, there);
        return missing.empty() ? there.size()
                               : static_cast<std::size_t>(missing.front().offset - range_.offset - offset);
    }

    /// Up to where it was looked at.
    std::uint64_t looked() const { return looked_; }

  private:
    const Source& source_;
    ByteRange range_;
    const Progress& progress_;
    std::uint64_t& read_;  ///< bytes
    std::uint64_t looked_ = 0;
};

/// What a cluster is like, for telling where a content of unknown length turns into another.
enum class Nature { zeros, text, other };

Nature nature_of(Bytes cluster) {
    if (all_zero(cluster)) return Nature::zeros;
    return may_be_text(cluster) ? Nature::text : Nature::other;
}

constexpr std::uint64_t sector = 512;
/// What a content calls itself is asked once its end is known: terabytes may follow it.
constexpr CheckLimits limits{.most_searched = 64 << 20, .title = false};
/// Less than this that holds is an accident.
constexpr std::uint64_t least_bytes = 512;
/// A text that nothing but its characters tells of.
constexpr std::uint64_t least_text = 128;

class Measuring {
  public:
    Measuring(const Source& source, const Stretch& stretch, const Progress& progress, std::uint64_t& read,
              ContentReading& reading)
        : source_(source), stretch_(stretch), progress_(progress), read_(read), reading_(reading) {}

    std::optional<Measured> run() {
        const auto seen = what_begins();
        if (seen.sure < sure_enough) return std::nullopt;
        out_.range.offset = stretch_.start;
        out_.format = seen.format->word;
        SourceContent all(source_, {stretch_.start, stretch_.end - stretch_.start}, progress_, read_);
        auto check = reading_.check(all, limits);
        if (progress_.stopped()) return std::nullopt;
        if (check && check->finished && check->complete && !is_text_alone(*check)) {
            end_at(check->holds_to, Ending::structure);
            out_.check = std::move(*check);
            add_what_follows();
        } else if (is_text(*seen.format)) {
            if (!measure_text(seen, all)) return std::nullopt;
        } else if (!measure_rest(seen, check, all.looked())) {
            return std::nullopt;
        }
        if (!out_.check.format.empty()) out_.format = out_.check.format;
        SourceContent measured(source_, out_.range, progress_, read_);
        out_.inside = reading_.inside(measured, *format_named(out_.format));
        out_.check.title = out_.inside.title;
        out_.check.details = out_.inside.details;
        out_.zeros_behind = zeros_follow(out_.range.length);
        return std::move(out_);
    }

  private:
    /// What begins there; a short text may have older data after its last sector.
    StartSeen what_begins() const {
        const auto first = source_.read_vector(
            {stretch_.start, std::min<std::uint64_t>(signature_bytes, stretch_.end - stretch_.start)});
        const auto seen = start_seen(first);
        if (seen.sure >= sure_enough) return seen;
        return start_seen(Bytes(first).first(std::min<std::size_t>(first.size(), sector)));
    }

    /// Nothing but its characters tells where it ends.
    static bool is_text_alone(const Check& check) {
        return check.strength == Strength::weak && is_text(*format_named(check.format));
    }

    void end_at(std::uint64_t size, Ending ending, std::string cut_by = {}) {
        out_.range.length = size;
        out_.ending = ending;
        out_.cut_by = std::move(cut_by);
    }

    /// Do zeros follow after an end, as writers leave them there? All that do fill the last sector; what
    /// is after that, up to the end of the cluster, may be older.
    bool zeros_follow(std::uint64_t size) const {
        const auto end = std::min((size / sector + 1) * sector, stretch_.end - stretch_.start);
        return size % stretch_.step != 0 && zeros_in(size, end);
    }
    /// Is it an end as files have them? Pieces of a file end with clusters.
    bool is_files_end(std::uint64_t size) const {
        return size % stretch_.step != 0 && (size % sector == 0 || zeros_follow(size));
    }
    bool zeros_in(std::uint64_t from, std::uint64_t to) const {
        return all_zero(source_.read_vector({stretch_.start + from, to - from}));
    }

    void add_what_follows() {
        const auto cluster_end = stretch_.start + step_up(out_.range.length);
        const auto more = bytes_after_end(source_, out_.range.end(), std::min(cluster_end, stretch_.end));
        if (more > 0) end_at(out_.range.length + more, Ending::zeros);
    }

    /// Where another content begins, from the start; the stretch's end where none does.
    std::uint64_t next_start(const Format& own, std::uint64_t from, std::uint64_t own_to) const {
        const auto start = stretch_.start;
        return std::min(stretch_.next_start(start + from, own, start + own_to), stretch_.end) - start;
    }

    std::uint64_t step_up(std::uint64_t size) const {
        return (size + stretch_.step - 1) / stretch_.step * stretch_.step;
    }
    static std::uint64_t sector_up(std::uint64_t size) { return (size + sector - 1) / sector * sector; }

    bool measure_text(const StartSeen& seen, Content& all) {
        Check text;
        content::check_as_text(all, text);
        const auto next = next_start(*seen.format, 1, all.size());
        auto size = text_end(std::min(text.holds_to, next));
        // The first bytes of other data may pass for characters.
        constexpr std::uint64_t few = 64;
        if (size > sector && size % sector < few && !zeros_follow(size)) size -= size % sector;
        if (size < least_text) return false;
        if (size == next)
            end_at(size, Ending::cut,
                   size == all.size() ? "somebody else's bytes begin" : "another content begins");
        else if (is_files_end(size))
            end_at(size, Ending::zeros);
        else
            end_at(size, Ending::cut, "the text turns into other data");
        const auto first =
            source_.read_vector({stretch_.start, std::min<std::uint64_t>(size, signature_bytes)});
        if (!reads_as_text(first)) return false;
        out_.begins_within = seen.format->word == "text" && !begins_as_text(first);
        // The bytes alone, as they are going to be exported.
        SourceContent part(source_, out_.range, progress_, read_);
        if (auto check = reading_.check(part, limits)) out_.check = std::move(*check);
        return true;
    }

    /// A text of single bytes has no zeros: where a sector ends with some, it ends before them, however few
    /// they are and whatever older text follows.
    std::uint64_t text_end(std::uint64_t size) const {
        const auto first =
            source_.read_vector({stretch_.start, std::min<std::uint64_t>(size, signature_bytes)});
        const auto encoding = encoding_of(first);
        if (encoding == Encoding::utf16_le || encoding == Encoding::utf16_be) return size;
        auto end = size;
        any_zero_end(0, size, [&](std::uint64_t at) {
            end = at;
            return true;
        });
        return end;
    }

    /// Calls `visit(size)` for the places up to `to` where zeros fill the rest of a sector, in their order,
    /// until it says true. Returns whether it did.
    template <class Visit>
    bool any_zero_end(std::uint64_t from, std::uint64_t to, const Visit& visit) const {
        constexpr std::uint64_t at_a_time = 1 << 20;
        for (auto at = from / sector * sector; at < to && !progress_.stopped(); at += at_a_time) {
            const auto block = source_.read_vector({stretch_.start + at, std::min(at_a_time, to - at)});
            for (std::size_t i = 0; i + sector <= block.size(); i += sector) {
                const auto part = Bytes(block).subspan(i, sector);
                if (part.back() != 0 || all_zero(part)) continue;
                const auto zeros =
                    std::find_if(part.rbegin(), part.rend(), [](std::uint8_t b) { return b != 0; });
                if (visit(at + i + static_cast<std::uint64_t>(part.rend() - zeros))) return true;
            }
        }
        return false;
    }

    /// What has no end, or none that was found: it reaches up to where something else begins.
    bool measure_rest(const StartSeen& seen, const std::optional<Check>& check, std::uint64_t looked) {
        const auto all = stretch_.end - stretch_.start;
        // Lengths that are said to reach beyond the stretch tell nothing of what is in it.
        const bool told = check && check->finished && check->holds_to <= looked;
        const auto holds = told ? check->holds_to : 0;
        // Some say no more than where the structure begins that is broken, far from where that shows.
        const auto reached = told ? std::max(holds, check->noticed_at) : 0;
        if (told && !check->cut && reached < least_bytes && seen.sure < 1) return false;
        const auto certain = std::max<std::uint64_t>(holds - std::min(holds, seen.format->delay), 1);
        auto size = next_start(*seen.format, certain, std::max<std::uint64_t>(holds, 1));
        std::string cut_by = size < all ? "another content begins" : "somebody else's bytes begin";
        if (const auto turns = other_nature(*seen.format, std::max(holds, stretch_.step), size)) {
            size = *turns;
            cut_by = "it turns into something else";
        }
        if (told && holds_before(holds)) return true;
        if (check && check->strength == Strength::weak && ends_in_zeros(certain, size)) return true;
        // Some decoders make something of zeros, on and on.
        size = without_zeros(size, has_no_zeros(*seen.format) ? size : stretch_.step);
        if (size < least_bytes) return false;
        end_at(size, Ending::cut, std::move(cut_by));
        if (check) {
            out_.check = *check;
            if (out_.check.why.empty()) out_.check.why = "its end is not known";
            out_.check.complete = false;
            out_.check.holds_to = std::min(out_.check.holds_to, size);
        }
        return true;
    }

    /// Streams go on for as long as there are parts. Where no part follows, but zeros do, it ends there; some
    /// readers take the zeros for filling.
    bool holds_before(std::uint64_t broken_at) {
        for (const auto size : {without_zeros(broken_at, stretch_.step), broken_at}) {
            if (is_files_end(size) && ends_whole(size)) return true;
        }
        return false;
    }
    /// Does it hold when it ends there?
    bool ends_whole(std::uint64_t size) {
        if (size == 0) return false;
        SourceContent part(source_, {stretch_.start, size}, progress_, read_);
        auto check = reading_.check(part, limits);
        if (!check || !check->complete || !check->finished || check->holds_to < size) return false;
        end_at(size, Ending::zeros);
        out_.check = std::move(*check);
        return true;
    }

    /// Some formats end where their content does: where zeros fill the rest of a sector it may end, and then
    /// it holds up to there.
    bool ends_in_zeros(std::uint64_t from, std::uint64_t to) {
        constexpr int most_tries = 32;
        constexpr std::uint64_t most_bytes = 64 << 20;
        std::uint64_t checked = 0;
        int tries = 0;
        const auto ends_at = [&](std::uint64_t size) {
            // The last bytes may be a number, whose high ones are zeros.
            for (std::uint64_t more = 0; more < 4 && size + more <= sector_up(size); ++more) {
                if (ends_whole(size + more)) return true;
            }
            checked += size;
            return ++tries > most_tries || checked > most_bytes;
        };
        return any_zero_end(from, to, ends_at) && out_.check.complete;
    }

    /// The first cluster from `from` on, up to `end`, that can be none of this format: zeros or text in what
    /// is compressed throughout.
    std::optional<std::uint64_t> other_nature(const Format& format, std::uint64_t from,
                                              std::uint64_t end) const {
        if (!has_no_zeros(format)) return std::nullopt;
        const bool dense = format.filling == Filling::dense;
        constexpr std::uint64_t at_a_time = 1 << 20;
        for (auto at = step_up(from); at < end;) {
            const auto block = source_.read_vector(
                {stretch_.start + at, std::min(std::max(at_a_time, stretch_.step), end - at)});
            for (std::size_t i = 0; i < block.size(); i += stretch_.step) {
                const auto n = std::min<std::size_t>(block.size() - i, stretch_.step);
                const auto nature = nature_of(Bytes(block).subspan(i, n));
                if (nature == Nature::zeros || (dense && nature == Nature::text)) return at + i;
            }
            at += block.size();
            if (progress_.stopped()) return std::nullopt;
        }
        return std::nullopt;
    }

    /// `size` without the zeros at its end, of `most` bytes.
    std::uint64_t without_zeros(std::uint64_t size, std::uint64_t most) const {
        constexpr std::uint64_t at_a_time = 1 << 20;
        for (const auto least = size - std::min(size, most); size > least;) {
            const auto from = std::max(least, size - std::min(size, at_a_time));
            const auto bytes = source_.read_vector({stretch_.start + from, size - from});
            const auto last =
                std::find_if(bytes.rbegin(), bytes.rend(), [](std::uint8_t b) { return b != 0; });
            size = from + static_cast<std::uint64_t>(bytes.rend() - last);
            if (last != bytes.rend() || progress_.stopped()) break;
        }
        return size;
    }

    const Source& source_;
    const Stretch& stretch_;
    const Progress& progress_;
    std::uint64_t& read_;
    ContentReading& reading_;
    Measured out_;
};

}  // namespace

std::uint64_t bytes_after_end(const Source& source, std::uint64_t end, std::uint64_t cluster_end) {
    constexpr std::uint64_t least_zeros = 8;
    const auto in_sector = (sector - end % sector) % sector;
    const auto looked = source.read_vector({end, std::min(in_sector + sector, cluster_end - end)});
    const auto rest =
        Bytes(looked).first(static_cast<std::size_t>(std::min<std::uint64_t>(in_sector, looked.size())));
    const auto last = std::find_if(rest.rbegin(), rest.rend(), [](std::uint8_t b) { return b != 0; });
    const auto zeros = static_cast<std::uint64_t>(last - rest.rbegin());
    const auto next = Bytes(looked).subspan(rest.size());
    const bool shown = zeros >= least_zeros || (next.size() == sector && all_zero(next));
    return shown ? rest.size() - zeros : 0;
}

std::optional<Measured> measure(const Source& source, const Stretch& stretch, const Progress& progress,
                                std::uint64_t& read, ContentReading& reading) {
    if (stretch.end <= stretch.start) return std::nullopt;
    return Measuring(source, stretch, progress, read, reading).run();
}

}  // namespace undershelf
