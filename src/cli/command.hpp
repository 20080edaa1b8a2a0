#pragma once
// What all commands share: a name, a line of help, and a body that returns the exit status.

#include <boost/program_options.hpp>
#include <functional>
#include <string>
#include <vector>

#include "base/error.hpp"
#include "cli/terminal.hpp"
#include "scan/narrowing.hpp"
#include "shelf/selection.hpp"

namespace undershelf::cli {

namespace po = boost::program_options;

/// Exit statuses; part of the interface.
enum Status : int { done = 0, fell_short = 1, wrong_usage = 2, no_input = 3, refused = 4, interrupted = 130 };

struct Command {
    std::string name;
    std::string arguments;  ///< as shown behind the name
    std::string summary;    ///< one line
    std::function<int(const std::vector<std::string>&)> run;
    bool keeps_progress = false;  ///< interrupted, it ends early by itself and keeps what it has
    bool leaves_at_once = false;  ///< told to terminate it ends without another word: it has nothing to keep
};

/// All commands in the order of the job.
const std::vector<Command>& commands();

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
/// `--help` stands there. Throws Error(usage).
std::optional<po::variables_map> parse(const Command& command, const po::options_description& options,
                                       const std::vector<std::string>& positional,
                                       const std::vector<std::string>& arguments);

/// The selection options, the same for every command that has them.
po::options_description selection_options();
Selection selection_from(const po::variables_map& given);

/// Which contents a scan is to look for. Throws Error(usage) where none is left.
po::options_description narrowing_options();
Narrowing narrowing_from(const po::variables_map& given);

/// `10k`, `2M`, `1.5G`: bytes, in powers of 1024. Throws Error(usage), naming the option.
std::uint64_t size_from(const std::string& text, const std::string& option);

/// The number given for an option; nothing without one.
std::optional<std::uint64_t> number_from(const po::variables_map& given, const std::string& option);

po::options_description color_option();
Terminal terminal_from(const po::variables_map& given);

/// Lists of values: given several times, or separated by commas.
std::vector<std::string> split_list(const std::vector<std::string>& values);
std::vector<SortKey> sort_from(const po::variables_map& given);

}  // namespace undershelf::cli
