#include "answers/selection_words.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <charconv>

#include "answers/fields.hpp"
#include "base/error.hpp"
#include "base/text.hpp"
#include "base/timestamp.hpp"
#include "content/formats.hpp"
#include "volume/words.hpp"

namespace undershelf {

namespace {

using Words = std::vector<std::string>;

constexpr SelectionOption selection_table[] = {
    {"id", Values::many, "these entries, by number"},
    {"under", Values::many, "everything inside this folder, however deep"},
    {"name", Values::many, "names that fit a pattern: *.jpg, cue*, act-?.txt; with a / in it, paths"},
    {"ext", Values::many, "extensions: jpg,png"},
    {"kind", Values::many,
     "picture, video, audio, document, mail, archive, database, program, text, link, other"},
    {"origin", Values::many, "live, deleted, former, unnamed"},
    {"grade", Values::many, "verified, likely, doubtful, partial, gone; likely+ for likely or better"},
    {"lost", Values::none, "deleted, former and unnamed files, and live ones in a recycle bin"},
    {"no-live", Values::none, "leave out live ones"},
    {"hide-copies", Values::none, "leave out lost ones that a live file holds byte for byte"},
    {"helpers", Values::none,
     "also what only serves a bin or a viewer: $I..., .trashinfo, .DS_Store, Thumbs.db"},
    {"same-as", Values::one, "this entry and all with the same content"},
    {"content", Values::many, "formats that contents show, where they were checked: jpeg,zip"},
    {"checked", Values::many, "how strongly contents were checked: strong, fair, weak, none"},
    {"broken", Values::none, "files that a check found not to hold to their end"},
    {"unrated", Values::none, "files that have no rating yet, or are not copied yet"},
    {"unread", Values::none, "files with bytes unreadable or not yet copied"},
    {"marked", Values::none, "those kept with undershelf mark"},
    {"size", Values::one, "sizes: 10k..2M, 500.., ..1G"},
    {"modified", Values::one, "dates of change: 2024-03..2024-05, 2024.., ..today"},
    {"created", Values::one, "dates of creation"},
    {"deleted", Values::one, "dates of deletion, where they are known"},
    {"volume", Values::many, "volumes, by number"},
    {"match-case", Values::none, "match case in names and paths"},
};
constexpr SelectionOption narrowing_table[] = {
    {"kind", Values::many, "picture, video, audio, document, mail, archive, database, program, text, other"},
    {"ext", Values::many, "those that files of these extensions have: jpg,png"},
    {"content", Values::many, "formats: jpeg,zip"},
};

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
    const auto [from, to] = split_range(one_of(said, option), option);
    const auto parse_one = [&](const std::string& text) {
        const auto span = parse_date(text);
        if (!span)
            misuse(
                fmt::format("`{}` in --{} is not a date; write ISO 8601 such as 2024-03-01, 2024-03 or "
                            "2024-03-01T09:30, or today, and ranges as FROM..TO.",
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
            fmt::format("`{}` is not a grade; the grades are verified, likely, doubtful, partial and gone, "
                        "with a + for this grade or better.",
                        text));
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

std::vector<Kind> kinds_from(const Said& said) {
    std::vector<Kind> out;
    for (const auto& text : words_of(said, "kind")) {
        const auto kind = kind_from_word(folded(text));
        if (!kind)
            misuse(
                fmt::format("`{}` is not a kind; the kinds are picture, video, audio, document, mail, "
                            "archive, database, program, text, link and other.",
                            text));
        out.push_back(*kind);
    }
    return out;
}

[[noreturn]] void unknown_format(const std::string& text) {
    Words known;
    for (const auto& f : formats()) known.emplace_back(f.word);
    misuse(fmt::format("Unknown format `{}`; known: {}.", text, fmt::join(known, ", ")));
}

Words contents_from(const Said& said) {
    Words out;
    for (const auto& text : words_of(said, "content")) {
        if (!format_named(folded(text))) unknown_format(text);
        out.push_back(folded(text));
    }
    return out;
}

}  // namespace

std::span<const SelectionOption> selection_options() {
    return selection_table;
}
std::span<const SelectionOption> narrowing_options() {
    return narrowing_table;
}

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
    out.kinds = kinds_from(said);
    for (auto ext : words_of(said, "ext")) {
        if (ext.starts_with('.')) ext.erase(0, 1);
        out.exts.push_back(folded(ext));
    }
    out.formats = contents_from(said);
    if (out.words() == " ") misuse("No format matches --kind, --ext and --content together.");
    return out;
}

Selection selection_from(const Said& said) {
    Selection s;
    for (const auto& id : words_of(said, "id")) s.ids.push_back(parse_number<std::int64_t>(id, "id"));
    if (said.contains("under")) s.under = said.at("under");
    if (said.contains("name")) s.names = said.at("name");
    s.exts = words_of(said, "ext");
    s.kinds = kinds_from(said);
    s.contents = contents_from(said);
    for (const auto& text : words_of(said, "checked")) {
        const auto strength = strength_from_word(folded(text));
        if (!strength)
            misuse(fmt::format("`{}` is not a check strength; use strong, fair, weak or none.", text));
        s.checked.push_back(*strength);
    }
    for (const auto& text : words_of(said, "origin")) {
        const auto origin = origin_from_word(folded(text));
        if (!origin)
            misuse(fmt::format("`{}` is not an origin; the origins are live, deleted, former and unnamed.",
                               text));
        s.origins.push_back(*origin);
    }
    for (const auto& text : words_of(said, "grade")) s.grades.push_back(parse_grade(text));
    for (const auto& text : words_of(said, "volume")) s.volumes.push_back(parse_number<int>(text, "volume"));
    s.size = size_range(said);
    s.modified = date_range(said, "modified");
    s.created = date_range(said, "created");
    s.deleted = date_range(said, "deleted");
    s.lost = said.contains("lost");
    s.no_live = said.contains("no-live");
    s.hide_copies = said.contains("hide-copies");
    s.no_helpers = !said.contains("helpers");
    s.broken = said.contains("broken");
    s.unrated = said.contains("unrated");
    s.unread = said.contains("unread");
    s.marked = said.contains("marked");
    if (said.contains("same-as")) s.same_as = parse_number<std::int64_t>(one_of(said, "same-as"), "same-as");
    s.match_case = said.contains("match-case");
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
