#include "content/formats.hpp"

#include <algorithm>
#include <array>
#include <new>

#include "base/text.hpp"
#include "content/list.hpp"
#include "content/memory.hpp"

namespace undershelf {

namespace {

std::vector<Format> all_rows() {
    std::vector<Format> out;
    for (const auto rows_of : content::all_formats) {
        const auto rows = rows_of().formats;
        out.insert(out.end(), rows.begin(), rows.end());
    }
    return out;
}

const std::vector<const FormatReader*>& readers() {
    static const auto all = [] {
        std::vector<const FormatReader*> out;
        for (const auto rows_of : content::all_formats) {
            if (const auto* reader = rows_of().reader) out.push_back(reader);
        }
        return out;
    }();
    return all;
}

struct Best {
    Recognised recognised;
    const FormatReader* reader = nullptr;
};
Best best_reader(Bytes first) {
    Best best;
    for (const auto* r : readers()) {
        const auto seen = r->recognise(first);
        if (seen.sure > best.recognised.sure) best = {seen, r};
    }
    return best;
}

bool stands_at(Bytes first, std::size_t at, std::string_view magic) {
    return first.size() >= at && content::begins_with(first.subspan(at), magic);
}
/// Two bytes alone are too little to name a format by.
constexpr std::size_t least_magic = 3;

bool has_start(const Format& format, Bytes first, std::size_t least) {
    return std::any_of(format.starts.begin(), format.starts.end(), [&](const Start& s) {
        return s.magic.size() + s.more.size() >= least && stands_at(first, s.at, s.magic) &&
               stands_at(first, s.more_at, s.more);
    });
}

/// What begins like a format that has no reader.
const Format* format_without_reader(Bytes first) {
    const auto all = formats();
    const auto it = std::find_if(all.begin(), all.end(),
                                 [&](const Format& f) { return has_start(f, first, least_magic); });
    return it == all.end() ? nullptr : &*it;
}

}  // namespace

std::span<const Format> formats() {
    static const auto all = all_rows();
    return all;
}

const Format* format_named(std::string_view word) {
    const auto all = formats();
    const auto it = std::find_if(all.begin(), all.end(), [&](const Format& f) { return f.word == word; });
    return it == all.end() ? nullptr : &*it;
}

StartSeen start_seen(Bytes first) {
    const auto best = best_reader(first).recognised;
    // What is told by statistics alone may have a start of its own.
    if (best.sure <= sure_of_text) {
        if (const auto* other = format_without_reader(first)) return {other, sure_enough};
    }
    return best.sure > 0 ? StartSeen{format_named(best.format), best.sure} : StartSeen();
}

const Format* format_of_start(Bytes first, double least) {
    const auto seen = start_seen(first);
    return seen.sure >= least ? seen.format : nullptr;
}

bool begins_like(const Format& format, Bytes first) {
    if (!format.starts.empty() && has_start(format, first, 1)) return true;
    constexpr double possible = 0.5;
    const auto* seen = format_of_start(first, possible);
    return seen && seen->family == format.family;
}

std::string_view usual_extension(const Format& format) {
    const auto list = format.extensions.substr(1);
    return list.substr(0, list.find(' '));
}

bool is_text(const Format& format) {
    return format.filling == Filling::text;
}

bool has_no_zeros(const Format& format) {
    return format.filling == Filling::dense || format.filling == Filling::no_zeros;
}

bool lists_extension(std::string_view list, std::string_view ext) {
    const auto written = written_extension(ext);
    if (written.size() == ext.size() || ext.back() == maybe_longer) return lists_word(list, written);
    return list.find(" " + std::string(written)) != list.npos;
}

std::string_view written_extension(std::string_view ext) {
    const bool marked = !ext.empty() && (ext.back() == any_longer || ext.back() == maybe_longer);
    return marked ? ext.substr(0, ext.size() - 1) : ext;
}

bool promises(std::string_view ext, const Format& format) {
    return lists_extension(format.extensions, ext);
}

const Format* format_shown_by(const std::optional<Check>& check) {
    return check && check->complete && check->strength >= Strength::fair ? format_named(check->format)
                                                                         : nullptr;
}

Kind kind_of_file(std::string_view ext, const Format* shown) {
    const auto by_name = kind_of_extension(ext);
    return !shown || (by_name != Kind::other && promises(ext, *shown)) ? by_name : shown->kind;
}

const FormatReader* reader_for(Bytes first) {
    const auto best = best_reader(first);
    if (best.recognised.sure < sure_enough) return nullptr;
    // What is told by statistics alone may have a start of its own.
    return best.recognised.sure <= sure_of_text && format_without_reader(first) ? nullptr : best.reader;
}

const FormatReader* reader_of(const Format& format) {
    for (const auto rows_of : content::all_formats) {
        const auto rows = rows_of();
        for (const auto& row : rows.formats) {
            if (row.word == format.word) return rows.reader;
        }
    }
    return nullptr;
}

std::optional<Check> check_content(Content& content, const CheckLimits& limits) {
    Cursor start(content);
    const auto first = start.peek(4096);
    const auto* known = reader_for(first);
    if (!known) return std::nullopt;
    const auto& reader = *known;
    Check check;
    check.format = reader.recognise(first).format;
    const auto run = [&] {
        check = reader.check(content, limits);
        check.holds_to = std::min(check.holds_to, content.size());
        if (!limits.title) return;
        check.title = reader.title(content);
        PartOfContent what_holds(content, 0, check.holds_to);
        check.details = reader.details(what_holds);
    };
    try {
        content::with_enough_memory(run);
    } catch (const std::bad_alloc&) {
        // One content that asks for too much takes nothing else down.
        check.finished = false;
        check.fails(0, "it takes more memory than a check may have");
    }
    return check;
}

Inside content_inside(Content& content, const Format& format) {
    Inside out;
    Cursor start(content);
    const auto best = best_reader(start.peek(4096));
    if (best.recognised.sure >= sure_enough) {
        try {
            content::with_enough_memory([&] {
                out.title = best.reader->title(content);
                out.dates = best.reader->dates(content);
                out.details = best.reader->details(content);
                out.extension = best.reader->extension(content);
            });
        } catch (const std::bad_alloc&) {
            // What asks for too much tells nothing.
        }
    }
    if (out.extension.empty()) out.extension = usual_extension(format);
    return out;
}

namespace {
/// What one of a reader's ways of giving out text says of a content.
void give_out(Content& content, const TakeText& take,
              void (FormatReader::*what)(Content&, const TakeText&) const) {
    Cursor start(content);
    const auto best = best_reader(start.peek(4096));
    if (best.recognised.sure >= sure_enough)
        content::with_enough_memory([&] { (best.reader->*what)(content, take); });
}
}  // namespace

void content_text(Content& content, const TakeText& take) {
    give_out(content, take, &FormatReader::text);
}

void content_outline(Content& content, const TakeText& take) {
    give_out(content, take, &FormatReader::outline);
}

namespace {
constexpr std::array<std::string_view, 4> strengths{"none", "weak", "fair", "strong"};
}

std::string_view word(Strength strength) {
    return strengths[static_cast<std::size_t>(strength)];
}

std::optional<Strength> strength_from_word(std::string_view text) {
    for (std::size_t i = 0; i < strengths.size(); ++i) {
        if (strengths[i] == text) return static_cast<Strength>(i);
    }
    return std::nullopt;
}

}  // namespace undershelf
