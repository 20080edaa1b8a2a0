#include <fmt/format.h>
#include <fmt/ranges.h>

#include <charconv>
#include <sstream>

#include "answers/empty_selection.hpp"
#include "answers/fields.hpp"
#include "answers/steps.hpp"
#include "base/printable.hpp"
#include "base/text.hpp"
#include "base/timestamp.hpp"
#include "cli/command.hpp"
#include "cli/output.hpp"
#include "content/formats.hpp"
#include "source/health.hpp"
#include "volume/words.hpp"

namespace undershelf::cli {

namespace {

using Words = std::vector<std::string>;

[[noreturn]] void misuse(const std::string& sentence) {
    throw Error(Trouble::usage, sentence);
}

/// The options of a table, as the command line has them.
void add(po::options_description& to, std::span<const SelectionOption> options) {
    for (const auto& o : options) {
        if (o.values == Values::none)
            to.add_options()(o.name, o.help);
        else if (o.values == Values::one)
            to.add_options()(o.name, po::value<std::string>(), o.help);
        else
            to.add_options()(o.name, po::value<Words>(), o.help);
    }
}

Said said_in(const po::variables_map& given, std::span<const SelectionOption> options) {
    Said out;
    for (const auto& o : options) {
        if (!given.count(o.name)) continue;
        auto& values = out[o.name];
        if (o.values == Values::one) values.push_back(given[o.name].as<std::string>());
        if (o.values == Values::many) values = given[o.name].as<Words>();
    }
    return out;
}

}  // namespace

void add_selection(po::options_description& to) {
    po::options_description out("Selection");
    add(out, selection_options());
    to.add(out);
}
Selection selection_from(const po::variables_map& given) {
    return undershelf::selection_from(said_in(given, selection_options()));
}

void warn_of_mounts(const std::string& source) {
    const auto drive = drive_health(source);
    const auto points = drive ? writable_mounts(*drive) : std::vector<std::string>();
    if (points.empty()) return;
    std::vector<std::string> words{"umount"};
    words.insert(words.end(), points.begin(), points.end());
    note(
        "undershelf: {} is mounted for writing: what is lost may be written over at any moment. Unmount it: "
        "{}\n",
        source, without_controls(command_line(words)));
}

void tell_why_nothing_fits(const Shelf& shelf, const po::variables_map& given) {
    for (const auto& sentence : why_nothing_fits(shelf, said_in(given, selection_options())))
        note("{}\n", without_controls(sentence));
}

std::vector<SortKey> sort_from(const po::variables_map& given) {
    constexpr SelectionOption sort{"sort", Values::many, ""};
    return undershelf::sort_from(said_in(given, {&sort, 1}));
}

void add_narrowing(po::options_description& to) {
    po::options_description out(
        "What to rate and check first; with --reach content, which nameless contents to look for");
    add(out, narrowing_options());
    to.add(out);
}
Narrowing narrowing_from(const po::variables_map& given) {
    return undershelf::narrowing_from(said_in(given, narrowing_options()));
}

std::optional<std::uint64_t> number_from(const po::variables_map& given, const std::string& option) {
    if (!given.count(option)) return std::nullopt;
    return undershelf::number_from(given[option].as<std::string>(), option);
}

bool wants_json(const po::variables_map& given) {
    const auto format = given["format"].as<std::string>();
    if (format != "text" && format != "json")
        misuse(fmt::format("--format takes text or json, not `{}`.", format));
    return format == "json";
}

void add_script_options(po::options_description& to, bool json) {
    po::options_description out("For scripts");
    if (json)
        out.add_options()("format", po::value<std::string>()->default_value("text"),
                          "text or json: the last lines as one object");
    out.add_options()("progress", po::value<std::string>()->default_value("line"),
                      "line, or json: a line of JSON on standard error every second")(
        "fell-short-ok", "exit 0 also when something fell short, so that the next command runs");
    to.add(out);
}

ProgressForm progress_form(const po::variables_map& given) {
    const auto form = given["progress"].as<std::string>();
    if (form != "line" && form != "json")
        misuse(fmt::format("--progress takes line or json, not `{}`.", form));
    return form == "json" ? ProgressForm::json : ProgressForm::line;
}

int status_for_scripts(int status, const po::variables_map& given) {
    return status == fell_short && given.count("fell-short-ok") ? done : status;
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
                                       const Words& positional, const Words& arguments,
                                       const std::string& several) {
    po::options_description all(options);
    all.add_options()("help,h", "this text");
    po::options_description with_positional(all);
    po::positional_options_description order;
    for (const auto& name : positional) {
        with_positional.add_options()((":" + name).c_str(), po::value<std::string>());
        order.add((":" + name).c_str(), 1);
    }
    if (!several.empty()) {
        with_positional.add_options()((":" + several).c_str(), po::value<Words>());
        order.add((":" + several).c_str(), -1);
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
            misuse(fmt::format(
                "undershelf {0} needs {1}.{2} See `undershelf {0} --help`.", command.name, name,
                name == "SOURCE" ? " `undershelf sources` shows the drives that are attached." : ""));
    }
    return given;
}

}  // namespace undershelf::cli
