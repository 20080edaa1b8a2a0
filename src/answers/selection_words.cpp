#include "answers/selection_words.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <charconv>

#include "answers/fields.hpp"
#include "answers/id_list.hpp"
#include "answers/known_sums.hpp"
#include "base/error.hpp"
#include "base/nearest.hpp"
#include "base/text.hpp"
#include "base/timestamp.hpp"
#include "content/formats.hpp"
#include "volume/words.hpp"

namespace undershelf {

namespace {

using Words = std::vector<std::string>;

[[noreturn]] void misuse(const std::string& sentence) {
    throw Error(Trouble::usage, sentence);
}

/// The value of an option that takes one.
const std::string& one_of(const Said& said, const std::string& option) {
    const auto& values = said.at(option);
    if (values.size() != 1) misuse(fmt::format("--{} takes one value, not {}.", option, values.size()));
    return values.front();
}

/// Splits `FROM..TO`; a value alone is both ends.
std::pair<std::string, std::string> split_range(const std::string& text, const std::string& option) {
    const auto dots = text.find("..");
    if (dots == std::string::npos) return {text, text};
    if (text == "..")
        misuse(fmt::format("`..` in --{} is open on both sides; give one end at least.", option));
    return {text.substr(0, dots), text.substr(dots + 2)};
}

template <class Value>
void check_order(const Between<Value>& range, const std::string& text, const std::string& option) {
    if (range.from && range.to && *range.from > *range.to)
        misuse(fmt::format("`{}` in --{} ends before it begins.", text, option));
}

std::optional<Between<std::uint64_t>> size_range(const Said& said) {
    if (!said.contains("size")) return std::nullopt;
    const auto [from, to] = split_range(one_of(said, "size"), "size");
    Between<std::uint64_t> out;
    if (!from.empty()) out.from = size_from(from, "size");
    if (!to.empty()) out.to = size_from(to, "size");
    check_order(out, one_of(said, "size"), "size");
    return out;
}

std::optional<Between<std::int64_t>> date_range(const Said& said, const std::string& option) {
    if (!said.contains(option)) return std::nullopt;
    if (one_of(said, option) == "none") return Between<std::int64_t>{{}, {}, true};
    const auto [from, to] = split_range(one_of(said, option), option);
    const auto parse_one = [&](const std::string& text) {
        const auto span = parse_date(text);
        if (!span)
            misuse(fmt::format(
                "`{}` in --{} is not a date; write ISO 8601 such as 2024-03-01, 2024-03 or "
                "2024-03-01T09:30, or today, yesterday, 7d for so long ago, and ranges as FROM..TO.",
                text, option));
        return *span;
    };
    Between<std::int64_t> out;
    if (!from.empty()) out.from = parse_one(from).first;
    if (!to.empty()) out.to = parse_one(to).last;
    check_order(out, one_of(said, option), option);
    return out;
}

GradeChoice parse_grade(std::string text) {
    GradeChoice out;
    out.or_better = text.ends_with("+");
    if (out.or_better) text.pop_back();
    const auto grade = grade_from_word(folded(text));
    if (!grade)
        misuse(
            fmt::format("`{}` is not a grade.{} The grades are verified, likely, doubtful, partial and gone, "
                        "with a + for this grade or better.",
                        text, did_you_mean(text, {"verified", "likely", "doubtful", "partial", "gone"})));
    out.grade = *grade;
    return out;
}

template <class Number>
Number parse_number(const std::string& text, const std::string& option) {
    Number n{};
    const auto [end, ec] = std::from_chars(text.data(), text.data() + text.size(), n);
    if (ec != std::errc{} || end != text.data() + text.size())
        misuse(fmt::format("`{}` in --{} is not a number.", text, option));
    return n;
}

Words words_of(const Said& said, const std::string& option) {
    if (!said.contains(option)) return {};
    auto out = split_list(said.at(option));
    if (out.empty()) misuse(fmt::format("--{} needs at least one value.", option));
    return out;
}

std::vector<Kind> kinds_from(const Said& said, const std::string& option) {
    std::vector<Kind> out;
    for (const auto& text : words_of(said, option)) {
        const auto kind = kind_from_word(folded(text));
        if (!kind)
            misuse(
                fmt::format("`{}` is not a kind.{} The kinds are picture, video, audio, document, mail, "
                            "archive, database, program, text, link and other.",
                            text,
                            did_you_mean(text, {"picture", "video", "audio", "document", "mail", "archive",
                                                "database", "program", "text", "link", "other"})));
        out.push_back(*kind);
    }
    return out;
}

[[noreturn]] void unknown_format(const std::string& text) {
    Words known;
    for (const auto& f : formats()) known.emplace_back(f.word);
    misuse(fmt::format("There is no format `{}`.{} The formats are {}.", text, did_you_mean(text, known),
                       fmt::join(known, ", ")));
}

Words contents_from(const Said& said, bool none = false) {
    Words out;
    for (const auto& text : words_of(said, "content")) {
        if (!(none && text == "none") && !format_named(folded(text))) unknown_format(text);
        out.push_back(folded(text));
    }
    return out;
}

}  // namespace

std::uint64_t size_from(const std::string& text, const std::string& option) {
    double value = -1;
    const auto [end, ec] = std::from_chars(text.data(), text.data() + text.size(), value);
    std::string unit = folded(std::string(end, text.data() + text.size()));
    if (unit.ends_with("ib")) unit.resize(unit.size() - 2);
    static const std::string units = "kmgtpe";
    const auto power = unit.empty() || unit == "b" ? 0 : units.find(unit) + 1;
    for (std::size_t i = 0; i < power && power <= units.size(); ++i) value *= 1024;
    // Also false for what is no number. No file has 2^63 bytes.
    const bool sensible = value >= 0 && value < 9223372036854775808.0;
    if (ec != std::errc{} || !sensible || power > units.size() || unit.size() > 1)
        misuse(
            fmt::format("`{}` in --{} is not a size; write for example 500, 10k, 2M or 1.5G, and ranges as "
                        "10k..2M, 500.. or ..1G.",
                        text, option));
    return static_cast<std::uint64_t>(value);
}

std::uint64_t number_from(const std::string& text, const std::string& option) {
    return parse_number<std::uint64_t>(text, option);
}

Words split_list(const Words& values) {
    Words out;
    for (const auto& value : values) {
        for (std::size_t at = 0; at <= value.size();) {
            const auto end = std::min(value.find(',', at), value.size());
            if (end > at) out.push_back(value.substr(at, end - at));
            at = end + 1;
        }
    }
    return out;
}

Narrowing narrowing_from(const Said& said) {
    Narrowing out;
    out.kinds = kinds_from(said, "kind");
    for (auto ext : words_of(said, "ext")) {
        if (ext.starts_with('.')) ext.erase(0, 1);
        out.exts.push_back(folded(ext));
    }
    out.formats = contents_from(said);
    if (out.words() == " ") misuse("No format matches --kind, --ext and --content together.");
    return out;
}

namespace {

/// What an option was given, as it was typed: commas may be part of it.
Words typed(const Said& said, const std::string& option) {
    return said.contains(option) ? said.at(option) : Words();
}

IdSet both(const IdSet& a, const IdSet& b) {
    auto ranges = a.ranges();
    ranges.insert(ranges.end(), b.ranges().begin(), b.ranges().end());
    return IdSet(std::move(ranges));
}

/// Several lists are one, of the shelf that one of them is from.
ListedIds both(const ListedIds& a, ListedIds&& b) {
    if (!a.shelf.empty() && !b.shelf.empty() && a.shelf != b.shelf)
        throw Error(Trouble::refused,
                    fmt::format("{} and {} were made from different shelves. Give lists of one shelf.",
                                a.file, b.file));
    return {a.file + ", " + b.file, a.shelf.empty() ? b.shelf : a.shelf, both(a.ids, b.ids)};
}

void add_ids(const Said& said, Selection& s) {
    for (const auto& text : words_of(said, "id")) {
        if (!add_numbers(s.ids, text))
            misuse(fmt::format("`{}` in --id is not a number; write for example 12,20-31.", text));
    }
    for (const auto& file : typed(said, "ids-from")) {
        auto list = id_list_from(file);
        if (s.listed) list = both(*s.listed, std::move(list));
        s.ids = both(s.ids, list.ids);
        s.listed = std::make_shared<const ListedIds>(std::move(list));
    }
    if (s.listed && s.ids.empty()) misuse(fmt::format("{} holds no number.", s.listed->file));
}

void add_words(const Said& said, Selection& s) {
    for (const auto& text : words_of(said, "checked")) {
        const auto strength = strength_from_word(folded(text));
        if (!strength)
            misuse(fmt::format("`{}` is not a check strength; use strong, fair, weak or none.", text));
        s.checked.push_back(*strength);
    }
    for (const auto& text : words_of(said, "origin")) {
        const auto origin = origin_from_word(folded(text));
        if (!origin)
            misuse(fmt::format("`{}` is not an origin.{} The origins are live, deleted, former and unnamed.",
                               text, did_you_mean(text, {"live", "deleted", "former", "unnamed"})));
        s.origins.push_back(*origin);
    }
    for (const auto& text : words_of(said, "grade")) s.grades.push_back(parse_grade(text));
    for (const auto& text : words_of(said, "volume")) s.volumes.push_back(parse_number<int>(text, "volume"));
    s.kinds = kinds_from(said, "kind");
    s.not_kinds = kinds_from(said, "not-kind");
    s.contents = contents_from(said, true);
}

/// What asks for contents, and is looked for before anything is listed.
void add_looks(const Said& said, Selection& s) {
    s.containing = fmt::format("{}", fmt::join(typed(said, "containing"), " "));
    if (said.contains("sha256-from")) s.known = known_sums_from(one_of(said, "sha256-from"), "sha256-from");
    if (said.contains("not-sha256-from"))
        s.not_known = known_sums_from(one_of(said, "not-sha256-from"), "not-sha256-from");
    s.with_pairs = said.contains("with-pairs");
}

std::optional<bool> exported_from(const Said& said) {
    const bool yes = said.contains("exported"), no = said.contains("not-exported");
    if (yes && no) misuse("--exported and --not-exported are opposites; give one of them.");
    return yes || no ? std::optional(yes) : std::nullopt;
}

}  // namespace

Selection selection_from(const Said& said) {
    Selection s;
    add_ids(said, s);
    s.under = typed(said, "under");
    s.in = typed(said, "in");
    s.names = typed(said, "name");
    s.not_under = typed(said, "not-under");
    s.not_names = typed(said, "not-name");
    s.exts = words_of(said, "ext");
    s.not_exts = words_of(said, "not-ext");
    add_words(said, s);
    s.size = size_range(said);
    s.modified = date_range(said, "modified");
    s.created = date_range(said, "created");
    s.accessed = date_range(said, "accessed");
    s.deleted = date_range(said, "deleted");
    s.lost = said.contains("lost");
    s.no_live = said.contains("no-live");
    s.hidden = said.contains("hidden");
    s.hide_copies = said.contains("hide-copies");
    s.no_helpers = !said.contains("helpers");
    s.broken = said.contains("broken");
    s.mended = said.contains("mended");
    s.exported = exported_from(said);
    s.unrated = said.contains("unrated");
    s.unread = said.contains("unread");
    s.marked = said.contains("marked");
    s.marks = typed(said, "marked");
    if (said.contains("same-as")) s.same_as = parse_number<std::int64_t>(one_of(said, "same-as"), "same-as");
    s.match_case = said.contains("match-case");
    add_looks(said, s);
    return s;
}

std::vector<SortKey> sort_from(const Said& said) {
    std::vector<SortKey> out;
    for (auto text : words_of(said, "sort")) {
        SortKey key;
        key.descending = text.starts_with("-");
        key.column = field_name(key.descending ? text.substr(1) : text);
        out.push_back(std::move(key));
    }
    order_clause(out);  // throws for columns it does not know
    return out;
}

}  // namespace undershelf
