#pragma once
// What all commands share: a name, a line of help, and a body that returns the exit status.

#include <boost/program_options.hpp>
#include <functional>
#include <string>
#include <vector>

#include "answers/selection_words.hpp"
#include "base/error.hpp"
#include "cli/progress_line.hpp"
#include "cli/terminal.hpp"
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
Command mark_command();
Command unmark_command();
Command export_command();
Command verify_command();
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

/// The selection options, the same for every command that has them.
void add_selection(po::options_description& to);
Selection selection_from(const po::variables_map& given);
/// Says on standard error that a drive is mounted for writing, and how to unmount it. What is written
/// meanwhile may be what is looked for, and parts of a copy that are read at different times may not fit
/// together.
void warn_of_mounts(const std::string& source);
/// Says on standard error why a selection fits nothing.
void tell_why_nothing_fits(const Shelf& shelf, const po::variables_map& given);

/// How a list is sorted; by nothing without the option `sort`.
std::vector<SortKey> sort_from(const po::variables_map& given);

/// Which contents a scan is to look for.
void add_narrowing(po::options_description& to);
Narrowing narrowing_from(const po::variables_map& given);

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
