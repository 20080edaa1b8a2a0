#include "unnamed/measure.hpp"

#include <algorithm>

#include "base/text.hpp"
#include "content/formats.hpp"
#include "content/glance.hpp"
#include "content/signature.hpp"
#include "content/text.hpp"
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
        const auto missing = source_.read(range_.offset + offset, there);
        return missing.empty() ? there.size()
                               : static_cast<std::size_t>(missing.front().offset - range_.offset - offset);
    }

  private:
    const Source& source_;
    ByteRange range_;
    const Progress& progress_;
    std::uint64_t& read_;  ///< bytes
};

/// What a cluster is like, for telling where a content of unknown length turns into another.
enum class Nature { zeros, text, other };

Nature nature_of(Bytes cluster) {
    if (all_zero(cluster)) return Nature::zeros;
    return may_be_text(cluster) ? Nature::text : Nature::other;
}

/// Packed throughout: no cluster of it looks like text.
bool is_dense(const Format& format) {
    return lists_word(" png jpeg gif webp heif mp3 flac ogg gzip bzip2 xz zstd 7z rar cab matroska ",
                      format.family) ||
           format.family == "iso media";
}
/// No cluster of it is zeros.
bool has_no_zeros(const Format& format) {
    return is_dense(format) || format.family == "zip" || format.family == "pdf";
}

constexpr std::uint64_t sector = 512;
/// What a content calls itself is asked once its end is known.
constexpr CheckLimits limits{.title = false};
/// Less than this that holds is an accident.
constexpr std::uint64_t least_bytes = 512;
/// A text that nothing but its characters tells of.
constexpr std::uint64_t least_text = 128;

class Measuring {
  public:
    Measuring(const Source& source, const Stretch& stretch, const Progress& progress, std::uint64_t& read,
              DecodersApart* apart)
        : source_(source), stretch_(stretch), progress_(progress), read_(read), apart_(apart) {}

    std::optional<Measured> run() {
        const auto seen = what_begins();
        if (seen.sure < sure_enough) return std::nullopt;
        out_.range.offset = stretch_.start;
        out_.format = seen.format->word;
        SourceContent all(source_, {stretch_.start, stretch_.end - stretch_.start}, progress_, read_);
        auto check = check_content(all, limits, apart_);
        if (progress_.stopped()) return std::nullopt;
        if (check && check->finished && check->complete && !is_text_alone(*check)) {
            end_at(check->holds_to, Ending::structure);
            out_.check = std::move(*check);
            add_what_follows();
        } else if (is_text(*seen.format)) {
            if (!measure_text(seen, all)) return std::nullopt;
        } else if (!measure_rest(seen, check)) {
            return std::nullopt;
        }
        if (!out_.check.format.empty()) out_.format = out_.check.format;
        SourceContent measured(source_, out_.range, progress_, read_);
        out_.inside = content_inside(measured, *format_named(out_.format));
        out_.check.title = out_.inside.title;
        out_.zeros_behind = zeros_to(out_.range.end(), sector);
        return std::move(out_);
    }

  private:
    /// What begins there; of a short text the rest of its first cluster is zeros, whatever follows.
    StartSeen what_begins() const {
        const auto first = source_.read_vector(
            {stretch_.start, std::min<std::uint64_t>(signature_bytes, stretch_.end - stretch_.start)});
        const auto seen = start_seen(first);
        if (seen.sure >= sure_enough) return seen;
        const auto cluster = std::min<std::uint64_t>(first.size(), stretch_.step);
        return start_seen(Bytes(first).first(static_cast<std::size_t>(cluster)));
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

    /// Zeros from `at` to the next multiple of `unit` from the stretch's start.
    bool zeros_to(std::uint64_t at, std::uint64_t unit) const {
        const auto into = (at - stretch_.start) % unit;
        if (into == 0) return true;
        const auto end = std::min(stretch_.end, at + unit - into);
        return at >= end || all_zero(source_.read_vector({at, end - at}));
    }

    /// Some writers put a few bytes more behind the end that the structure tells. Zeros from there to the end
    /// of the cluster show them.
    void add_what_follows() {
        const auto end = out_.range.length, cluster = std::min(step_up(end), stretch_.end - stretch_.start);
        constexpr std::uint64_t least_zeros = 8;
        const auto last = std::max(end, without_zeros(cluster));
        if (last > end && last % sector != 0 && cluster - last >= least_zeros) end_at(last, Ending::zeros);
    }

    std::uint64_t step_up(std::uint64_t size) const {
        return (size + stretch_.step - 1) / stretch_.step * stretch_.step;
    }

    bool measure_text(const StartSeen& seen, Content& all) {
        Check text;
        content::check_as_text(all, text);
        const auto next = stretch_.next_start(stretch_.start + 1) - stretch_.start;
        auto size = std::min(text.holds_to, next);
        // The first bytes of other data may pass for characters.
        constexpr std::uint64_t few = 64;
        if (size > stretch_.step && size % stretch_.step < few &&
            !zeros_to(stretch_.start + size, stretch_.step))
            size -= size % stretch_.step;
        if (size < least_text) return false;
        const auto at_step = size % stretch_.step == 0;
        if (size == next)
            end_at(size, Ending::cut,
                   size == all.size() ? "somebody else's bytes begin" : "another content begins");
        else if (!at_step && zeros_to(stretch_.start + size, stretch_.step))
            end_at(size, Ending::zeros);
        else
            end_at(size, Ending::cut, "the text turns into other data");
        const auto first =
            source_.read_vector({stretch_.start, std::min<std::uint64_t>(size, signature_bytes)});
        if (!reads_as_text(first)) return false;
        out_.begins_within = seen.format->word == "text" && !begins_as_text(first);
        // The bytes alone, as they are going to be exported.
        SourceContent part(source_, out_.range, progress_, read_);
        if (auto check = check_content(part, limits, apart_)) out_.check = std::move(*check);
        return true;
    }

    /// What has no end, or none that was found: it reaches up to where something else begins.
    bool measure_rest(const StartSeen& seen, const std::optional<Check>& check) {
        const auto all = stretch_.end - stretch_.start;
        // Lengths that are said to reach behind the stretch tell nothing of what stands in it.
        const bool told = check && check->finished && !check->cut && check->holds_to < all;
        const auto holds = told ? check->holds_to : 0;
        if (told && holds < least_bytes && seen.sure < 1) return false;
        const auto certain = std::max<std::uint64_t>(holds - std::min(holds, seen.format->delay), 1);
        auto size = std::min(stretch_.next_start(stretch_.start + certain) - stretch_.start, all);
        std::string cut_by = size < all ? "another content begins" : "somebody else's bytes begin";
        if (const auto turns = other_nature(*seen.format, std::max(holds, stretch_.step), size)) {
            size = *turns;
            cut_by = "it turns into something else";
        }
        if (told && holds_before(holds)) return true;
        if (check && check->strength == Strength::weak && ends_in_zeros(certain, size)) return true;
        size = without_zeros(size);
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

    /// Streams go on for as long as there are parts: where what follows is none, and the end of a part is
    /// that of what stands in a cluster, it ends there.
    bool holds_before(std::uint64_t broken_at) {
        const auto up = std::min(step_up(broken_at), stretch_.end - stretch_.start);
        const auto down = broken_at / stretch_.step * stretch_.step;
        return ends_whole(without_zeros(up)) || (down > 0 && ends_whole(without_zeros(down)));
    }
    /// Does it hold when it ends there?
    bool ends_whole(std::uint64_t size) {
        if (size == 0) return false;
        SourceContent part(source_, {stretch_.start, size}, progress_, read_);
        auto check = check_content(part, limits, apart_);
        if (!check || !check->complete || !check->finished || check->holds_to < size) return false;
        end_at(size, Ending::zeros);
        out_.check = std::move(*check);
        return true;
    }

    /// Some formats end where their content does. Zeros at the end of a cluster, and none at the start of the
    /// next, may be its end: then it holds up to there.
    bool ends_in_zeros(std::uint64_t from, std::uint64_t to) {
        constexpr int most_tries = 16;
        constexpr std::uint64_t most_bytes = 64 << 20;
        std::uint64_t checked = 0;
        int tries = 0;
        for (auto end = step_up(from); tries < most_tries && checked < most_bytes; end += stretch_.step) {
            end = std::min(end, to);
            const auto size = without_zeros(end);
            const bool last = end == to;
            if (size > 0 && (last || (size < end && !zeros_at(end)))) {
                ++tries;
                checked += size;
                // The last bytes may be a number, whose high ones are zeros.
                for (std::uint64_t more = 0; more < 4 && size + more <= end; ++more) {
                    if (ends_whole(size + more)) return true;
                }
            }
            if (last || progress_.stopped()) break;
        }
        return false;
    }
    bool zeros_at(std::uint64_t at) const {
        return all_zero(
            source_.read_vector({stretch_.start + at, std::min(sector, stretch_.end - stretch_.start - at)}));
    }

    /// The first cluster from `from` on, up to `end`, that can be none of this format: zeros or text in what
    /// is compressed throughout.
    std::optional<std::uint64_t> other_nature(const Format& format, std::uint64_t from,
                                              std::uint64_t end) const {
        if (!has_no_zeros(format)) return std::nullopt;
        const bool dense = is_dense(format);
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

    /// `size` without the zeros at the end of the last cluster.
    std::uint64_t without_zeros(std::uint64_t size) const {
        const auto from = size - std::min(size, stretch_.step);
        const auto bytes = source_.read_vector({stretch_.start + from, size - from});
        const auto last = std::find_if(bytes.rbegin(), bytes.rend(), [](std::uint8_t b) { return b != 0; });
        return from + static_cast<std::uint64_t>(bytes.rend() - last);
    }

    const Source& source_;
    const Stretch& stretch_;
    const Progress& progress_;
    std::uint64_t& read_;
    DecodersApart* apart_;
    Measured out_;
};

}  // namespace

std::optional<Measured> measure(const Source& source, const Stretch& stretch, const Progress& progress,
                                std::uint64_t& read, DecodersApart* apart) {
    if (stretch.end <= stretch.start) return std::nullopt;
    return Measuring(source, stretch, progress, read, apart).run();
}

}  // namespace undershelf
