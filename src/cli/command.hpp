#pragma once
// What all commands share: a name, a line of help, and a body that returns the exit status.

#include <boost/program_options.hpp>
#include <functional>
#include <span>
#include <string>
#include <vector>

#include "answers/selection_words.hpp"
#include "base/error.hpp"
#include "cli/progress_line.hpp"
#include "cli/terminal.hpp"
#include "mend/effort.hpp"
#include "scan/choosing.hpp"
#include "shelf/shelf.hpp"

namespace undershelf::cli {

namespace po = boost::program_options;

/// Exit statuses; part of the interface.
enum Status : int { done = 0, fell_short = 1, wrong_usage = 2, no_input = 3, refused = 4, interrupted = 130 };

struct Command {
    std::string name;
    std::string arguments;  ///< as shown after the name
    std::string summary;    ///< one line
    std::function<int(const std::vector<std::string>&)> run;
    bool keeps_progress = false;  ///< interrupted, it ends early by itself and keeps what it has
    bool leaves_at_once = false;  ///< told to terminate it ends without another word: it has nothing to keep
    bool selects = false;         ///< it takes a selection
};

/// All commands in the order of the job.
const std::vector<Command>& commands();

Command sources_command();
Command inspect_command();
Command capture_command();
Command scan_command();
Command check_command();
Command list_command();
Command tree_command();
Command summary_command();
Command show_command();
Command peek_command();
Command sheet_command();
Command mark_command();
Command unmark_command();
Command export_command();
Command verify_command();
Command report_command();
Command demo_command();

/// 1 once Ctrl-C was pressed; 2 once the program is asked to terminate.
StopFlag& stop_flag();

/// Parses a command line with the given positional arguments, all required. Prints help and returns nothing
/// when
/// `--help` is there. `several`: of further ones, any number of them, none required. Throws Error(usage).
std::optional<po::variables_map> parse(const Command& command, const po::options_description& options,
                                       const std::vector<std::string>& positional,
                                       const std::vector<std::string>& arguments,
                                       const std::string& several = {});

/// What the parser is given for an option whose value was left out.
inline constexpr const char* whatever = "*";
/// The options of a table as the command line has them, and what was said of them.
void add_options(po::options_description& to, std::span<const SelectionOption> options);
Said said_in(const po::variables_map& given, std::span<const SelectionOption> options);
/// An option that takes a value, and what a help text calls it; and one that has a value otherwise.
po::typed_value<std::string>* value(const char* takes);
po::typed_value<std::string>* value(const char* takes, const std::string& otherwise);
/// One that may be given several times.
po::typed_value<std::vector<std::string>>* values(const char* takes);

/// The selection that was said, as it is; and with what had to be looked for first. Says on standard error
/// what is to be said of a list of numbers.
Selection selection_from(const po::variables_map& given);
Chosen chosen_from(const po::variables_map& given, const Shelf& shelf);
Chosen choose_from(Selection selection, const po::variables_map& given, const Shelf& shelf);
/// Says on standard error what was not looked into. False when looking was interrupted.
bool tell_of_looking(const Shelf& shelf, const Chosen& chosen);
/// Says on standard error what a table or tree of a selection does not show, and why.
void tell_what_is_left_out(const Shelf& shelf, const Selection& selection);
/// Throws Error(usage), with what to do instead, for a source that is a shelf.
void refuse_shelf(const std::string& source);
/// Says on standard error that a drive is mounted for writing, and how to unmount it. What is written
/// meanwhile may be what is looked for, and parts of a copy that are read at different times may not fit
/// together.
void warn_of_mounts(const std::string& source);
/// Says on standard error why a selection fits nothing.
void tell_why_nothing_fits(const Shelf& shelf, const po::variables_map& given);

/// How deep folders are shown; nothing without the option `depth`. Throws Error(usage) for 0.
std::optional<unsigned> depth_from(const po::variables_map& given);

/// How a list is sorted; by nothing without the option `sort`.
std::vector<SortKey> sort_from(const po::variables_map& given);

/// Which contents a scan is to look for.
void add_narrowing(po::options_description& to);
Narrowing narrowing_from(const po::variables_map& given);

/// `--effort` and `--no-mend`, for commands that mend contents.
void add_effort(po::options_description& to);
MendEffort effort_from(const po::variables_map& given);

/// The number given for an option; nothing without one.
std::optional<std::uint64_t> number_from(const po::variables_map& given, const std::string& option);

/// Of commands whose `--format` takes text or json. Throws Error(usage) for anything else.
bool wants_json(const po::variables_map& given);

/// What long work has for scripts: `--progress json`, `--fell-short-ok`, and `--format json` where `json`.
void add_script_options(po::options_description& to, bool json = true);
ProgressForm progress_form(const po::variables_map& given);
/// `fell_short` is `done` where somebody said that this is all right.
int status_for_scripts(int status, const po::variables_map& given);

po::options_description color_option();
Terminal terminal_from(const po::variables_map& given);

}  // namespace undershelf::cli
