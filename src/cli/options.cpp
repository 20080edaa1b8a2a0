#include <fmt/format.h>

#include "answers/fields.hpp"
#include "answers/steps.hpp"
#include "base/printable.hpp"
#include "base/text.hpp"
#include "base/timestamp.hpp"
#include "cli/command.hpp"
#include "cli/output.hpp"
#include "shelf/database.hpp"
#include "source/health.hpp"
#include "volume/words.hpp"

namespace undershelf::cli {

namespace {

[[noreturn]] void misuse(const std::string& sentence) {
    throw Error(Trouble::usage, sentence);
}

}  // namespace

void refuse_shelf(const std::string& source) {
    if (!is_shelf_file(source)) return;
    const auto name = without_controls(source);
    throw Error(
        Trouble::usage,
        fmt::format("{0} is a shelf, the result of a scan, and no source. What is in it: {1}. To scan on, "
                    "give the source: undershelf scan SOURCE --shelf {2}",
                    name, command_line({"undershelf", "summary", name}), command_line({name})));
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

std::vector<SortKey> sort_from(const po::variables_map& given) {
    constexpr SelectionOption sort{"sort", Values::many, "", ""};
    return undershelf::sort_from(said_in(given, {&sort, 1}));
}

void add_narrowing(po::options_description& to) {
    po::options_description out(
        "What to rate and check first; with --reach content, which nameless contents to look for");
    add_options(out, narrowing_options());
    to.add(out);
}
Narrowing narrowing_from(const po::variables_map& given) {
    return undershelf::narrowing_from(said_in(given, narrowing_options()));
}

std::optional<unsigned> depth_from(const po::variables_map& given) {
    const auto depth = number_from(given, "depth");
    if (!depth) return std::nullopt;
    if (*depth == 0) misuse("--depth takes a number from 1 on.");
    return static_cast<unsigned>(std::min<std::uint64_t>(*depth, 1u << 30));
}

po::typed_value<std::string>* value(const char* takes) {
    return po::value<std::string>()->value_name(takes);
}
po::typed_value<std::string>* value(const char* takes, const std::string& otherwise) {
    return value(takes)->default_value(otherwise, otherwise);
}
po::typed_value<std::vector<std::string>>* values(const char* takes) {
    return po::value<std::vector<std::string>>()->value_name(takes)->composing();
}

void add_effort(po::options_description& to) {
    to.add_options()("effort", value("HOW", "normal"),
                     "low, normal or high: how much is tried to mend files in pieces")(
        "no-mend", "files that do not hold stay as they were taken to lie");
}

MendEffort effort_from(const po::variables_map& given) {
    const auto word = given["effort"].as<std::string>();
    const auto effort = mend_effort_from_word(word);
    if (!effort) misuse(fmt::format("--effort takes low, normal or high, not `{}`.", word));
    return given.count("no-mend") ? MendEffort::none : *effort;
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
        out.add_options()("format", value("FORMAT", "text"), "text or json: the last lines as one object");
    out.add_options()("progress", value("FORM", "line"),
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
    out.add_options()("color", value("WHEN", "auto"), "auto, always or never");
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

}  // namespace undershelf::cli
