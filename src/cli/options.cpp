#include <fmt/format.h>
#include <fmt/ranges.h>

#include <charconv>
#include <sstream>

#include "base/text.hpp"
#include "base/timestamp.hpp"
#include "cli/command.hpp"
#include "cli/fields.hpp"
#include "cli/output.hpp"
#include "content/formats.hpp"
#include "volume/words.hpp"

namespace undershelf::cli {

namespace {

using Words = std::vector<std::string>;

[[noreturn]] void misuse(const std::string& sentence) {
    throw Error(Trouble::usage, sentence);
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

std::optional<Between<std::uint64_t>> size_range(const po::variables_map& given) {
    if (!given.count("size")) return std::nullopt;
    const auto [from, to] = split_range(given["size"].as<std::string>(), "size");
    Between<std::uint64_t> out;
    if (!from.empty()) out.from = size_from(from, "size");
    if (!to.empty()) out.to = size_from(to, "size");
    check_order(out, given["size"].as<std::string>(), "size");
    return out;
}

std::optional<Between<std::int64_t>> date_range(const po::variables_map& given, const std::string& option) {
    if (!given.count(option)) return std::nullopt;
    const auto [from, to] = split_range(given[option].as<std::string>(), option);
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
    check_order(out, given[option].as<std::string>(), option);
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

Words words_of(const po::variables_map& given, const std::string& option) {
    if (!given.count(option)) return {};
    auto out = split_list(given[option].as<Words>());
    if (out.empty()) misuse(fmt::format("--{} needs at least one value.", option));
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

po::options_description selection_options() {
    po::options_description out("Selection");
    out.add_options()("id", po::value<Words>(), "these entries, by number")(
        "under", po::value<Words>(), "everything inside this folder, however deep")(
        "name", po::value<Words>(),
        "names that fit a pattern: *.jpg, cue*, act-?.txt; with a / in it, paths")("ext", po::value<Words>(),
                                                                                   "extensions: jpg,png")(
        "kind", po::value<Words>(),
        "picture, video, audio, document, mail, archive, database, program, text, link, other")(
        "origin", po::value<Words>(), "live, deleted, former, unnamed")(
        "grade", po::value<Words>(),
        "verified, likely, doubtful, partial, gone; likely+ for likely or better")(
        "lost", "deleted, former and unnamed files, and live ones in a recycle bin")(
        "no-live", "leave out live ones")("hide-copies",
                                          "leave out lost ones that a live file holds byte for byte")(
        "helpers", "also what only serves a bin or a viewer: $I..., .trashinfo, .DS_Store, Thumbs.db")(
        "same-as", po::value<std::string>(), "this entry and all with the same content")(
        "content", po::value<Words>(), "formats that contents show, where they were checked: jpeg,zip")(
        "checked", po::value<Words>(), "how strongly contents were checked: strong, fair, weak, none")(
        "broken", "files that a check found not to hold to their end")(
        "unread", "files with bytes unreadable or not yet copied")(
        "marked", "those kept with undershelf mark")("size", po::value<std::string>(),
                                                     "sizes: 10k..2M, 500.., ..1G")(
        "modified", po::value<std::string>(), "dates of change: 2024-03..2024-05, 2024.., ..today")(
        "created", po::value<std::string>(), "dates of creation")("deleted", po::value<std::string>(),
                                                                  "dates of deletion, where they are known")(
        "volume", po::value<Words>(), "volumes, by number")("match-case", "match case in names and paths");
    return out;
}

namespace {
std::vector<Kind> kinds_from(const po::variables_map& given) {
    std::vector<Kind> out;
    for (const auto& text : words_of(given, "kind")) {
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

Words contents_from(const po::variables_map& given) {
    Words out;
    for (const auto& text : words_of(given, "content")) {
        if (!format_named(folded(text))) unknown_format(text);
        out.push_back(folded(text));
    }
    return out;
}

}  // namespace

po::options_description narrowing_options() {
    po::options_description out("Contents to look for, with --reach content");
    out.add_options()("kind", po::value<Words>(),
                      "picture, video, audio, document, mail, archive, database, program, text, other")(
        "ext", po::value<Words>(), "those that files of these extensions have: jpg,png")(
        "content", po::value<Words>(), "formats: jpeg,zip");
    return out;
}

Narrowing narrowing_from(const po::variables_map& given) {
    Narrowing out;
    out.kinds = kinds_from(given);
    for (auto ext : words_of(given, "ext")) {
        if (ext.starts_with('.')) ext.erase(0, 1);
        out.exts.push_back(folded(ext));
    }
    out.formats = contents_from(given);
    if (out.words() == " ") misuse("No format matches --kind, --ext and --content together.");
    return out;
}

Selection selection_from(const po::variables_map& given) {
    Selection s;
    for (const auto& id : words_of(given, "id")) s.ids.push_back(parse_number<std::int64_t>(id, "id"));
    if (given.count("under")) s.under = given["under"].as<Words>();
    if (given.count("name")) s.names = given["name"].as<Words>();
    s.exts = words_of(given, "ext");
    s.kinds = kinds_from(given);
    s.contents = contents_from(given);
    for (const auto& text : words_of(given, "checked")) {
        const auto strength = strength_from_word(folded(text));
        if (!strength)
            misuse(fmt::format("`{}` is not a check strength; use strong, fair, weak or none.", text));
        s.checked.push_back(*strength);
    }
    for (const auto& text : words_of(given, "origin")) {
        const auto origin = origin_from_word(folded(text));
        if (!origin)
            misuse(fmt::format("`{}` is not an origin; the origins are live, deleted, former and unnamed.",
                               text));
        s.origins.push_back(*origin);
    }
    for (const auto& text : words_of(given, "grade")) s.grades.push_back(parse_grade(text));
    for (const auto& text : words_of(given, "volume")) s.volumes.push_back(parse_number<int>(text, "volume"));
    s.size = size_range(given);
    s.modified = date_range(given, "modified");
    s.created = date_range(given, "created");
    s.deleted = date_range(given, "deleted");
    s.lost = given.count("lost");
    s.no_live = given.count("no-live");
    s.hide_copies = given.count("hide-copies");
    s.no_helpers = !given.count("helpers");
    s.broken = given.count("broken");
    s.unread = given.count("unread");
    s.marked = given.count("marked");
    if (given.count("same-as"))
        s.same_as = parse_number<std::int64_t>(given["same-as"].as<std::string>(), "same-as");
    s.match_case = given.count("match-case");
    return s;
}

std::optional<std::uint64_t> number_from(const po::variables_map& given, const std::string& option) {
    if (!given.count(option)) return std::nullopt;
    return parse_number<std::uint64_t>(given[option].as<std::string>(), option);
}

po::options_description color_option() {
    po::options_description out;
    out.add_options()("color", po::value<std::string>()->default_value("auto"), "auto, always or never");
    return out;
}

Terminal terminal_from(const po::variables_map& given) {
    const auto choice = given["color"].as<std::string>();
    if (choice != "auto" && choice != "always" && choice != "never")
        misuse(fmt::format("--color takes auto, always or never, not `{}`.", choice));
    return Terminal(choice == "always"  ? ColorChoice::always
                    : choice == "never" ? ColorChoice::never
                                        : ColorChoice::automatic);
}

std::vector<SortKey> sort_from(const po::variables_map& given) {
    std::vector<SortKey> out;
    for (auto text : words_of(given, "sort")) {
        SortKey key;
        key.descending = text.starts_with("-");
        key.column = field_name(key.descending ? text.substr(1) : text);
        out.push_back(std::move(key));
    }
    order_clause(out);  // throws for columns it does not know
    return out;
}

namespace {
/// Says itself which options there are not: the parser's own messages look for placeholders of theirs in what
/// was typed, without end where it holds one.
void check_names(const Words& arguments, const po::options_description& options, const Command& command) {
    for (const auto& word : arguments) {
        if (word == "--") return;
        const auto name = word.substr(0, word.find('='));
        const bool long_form = name.starts_with("--");
        const bool known =
            std::any_of(options.options().begin(), options.options().end(),
                        [&](const auto& option) { return "--" + option->long_name() == name; });
        const bool placeholder = name.starts_with("-") && !long_form && word.find('%') != std::string::npos;
        if ((long_form && !known) || placeholder)
            misuse(fmt::format("There is no option `{}`. See `undershelf {} --help`.", name, command.name));
    }
}

/// An option without a value is a slip of the hand, or of a script's variable; nothing is guessed from it.
void check_values(const po::parsed_options& parsed, const Command& command) {
    for (const auto& option : parsed.options) {
        if (std::none_of(option.value.begin(), option.value.end(), [](const auto& v) { return v.empty(); }))
            continue;
        const auto name =
            option.string_key.starts_with(":") ? option.string_key.substr(1) : "--" + option.string_key;
        misuse(fmt::format("{} is empty. See `undershelf {} --help`.", name, command.name));
    }
}
}  // namespace

std::optional<po::variables_map> parse(const Command& command, const po::options_description& options,
                                       const Words& positional, const Words& arguments) {
    po::options_description all(options);
    all.add_options()("help,h", "this text");
    po::options_description with_positional(all);
    po::positional_options_description order;
    for (const auto& name : positional) {
        with_positional.add_options()((":" + name).c_str(), po::value<std::string>());
        order.add((":" + name).c_str(), 1);
    }
    po::variables_map given;
    check_names(arguments, all, command);
    try {
        auto parsed = po::command_line_parser(arguments).options(with_positional).positional(order);
        // Options may not be shortened: what is a unique start today may be ambiguous tomorrow.
        parsed.style(po::command_line_style::unix_style & ~po::command_line_style::allow_guessing);
        const auto run = parsed.run();
        check_values(run, command);
        po::store(run, given);
        // Help is to be had without what is required otherwise.
        if (!given.count("help")) po::notify(given);
    } catch (const po::error& e) {
        misuse(fmt::format("{}. See `undershelf {} --help`.", e.what(), command.name));
    }
    if (given.count("help")) {
        std::ostringstream text;
        text << all;
        print("usage: undershelf {} {}\n\n{}.\n{}", command.name, command.arguments, command.summary,
              text.str());
        return std::nullopt;
    }
    for (const auto& name : positional) {
        if (!given.count(":" + name))
            misuse(fmt::format("undershelf {} needs {}. See `undershelf {} --help`.", command.name, name,
                               command.name));
    }
    return given;
}

}  // namespace undershelf::cli
