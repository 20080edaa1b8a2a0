// undershelf: reads what is left on deleted, formatted or damaged volumes.

#include <SQLiteCpp/Exception.h>
#include <fmt/format.h>
#include <unistd.h>

#include <csignal>
#include <cstdio>
#include <cstdlib>
#include <exception>
#include <new>
#include <system_error>

#include "base/nearest.hpp"
#include "cli/command.hpp"
#include "cli/help.hpp"
#include "cli/output.hpp"
#include "cli/under_way.hpp"
#include "shelf/database.hpp"

namespace undershelf::cli {

namespace {

/// Commands that write end early with what they have; asked to terminate, they settle nothing before.
void on_interrupt(int signal) {
    stop_flag().store(signal == SIGTERM ? 2 : 1);
    // A second Ctrl-C ends the program at once.
    std::signal(signal, SIG_DFL);
}

/// The others only look, and have nothing to keep.
void on_interrupt_leave(int) {
    ::_exit(interrupted);
}

int status_of(Trouble trouble) {
    switch (trouble) {
        case Trouble::usage:
            return wrong_usage;
        case Trouble::input:
            return no_input;
        case Trouble::refused:
            return refused;
        case Trouble::output:
            return fell_short;
    }
    return no_input;
}

void print_overview() {
    print(
        "usage: undershelf COMMAND ...\n\nReads what is left on deleted, formatted or damaged volumes, and "
        "never writes to them.\n\n");
    for (const auto& c : commands()) print("  {:<9} {:<26} {}\n", c.name, c.arguments, c.summary);
    print(
        "\n`undershelf help COMMAND` explains a command, `undershelf help selection` the options that say "
        "which "
        "files.\nTo see the whole job on made-up volumes: `undershelf demo`.\n"
        "Exit status: 0 done; 1 done, but something fell short; 2 wrong usage; 3 source or shelf cannot be "
        "read;\n"
        "4 refused for safety; 130 interrupted, progress kept.\n");
}

const Command& command_named(const std::string& name) {
    std::vector<std::string> names;
    for (const auto& command : commands()) {
        if (command.name == name) return command;
        names.push_back(command.name);
    }
    throw Error(Trouble::usage, fmt::format("There is no command `{}`.{} `undershelf --help` lists them.",
                                            name, did_you_mean(name, names)));
}

/// `help COMMAND` is `COMMAND --help`.
int help(const std::vector<std::string>& arguments) {
    if (arguments.size() < 2) {
        print_overview();
        return arguments.empty() ? wrong_usage : done;
    }
    if (arguments[1] == "selection") {
        print_selection_help();
        return done;
    }
    return command_named(arguments[1]).run({"--help"});
}

int run(const std::vector<std::string>& arguments) {
    if (arguments.empty() || arguments[0] == "--help" || arguments[0] == "-h" || arguments[0] == "help")
        return help(arguments);
    if (arguments[0] == "--version") {
        print("undershelf {}\n", program_version);
        return done;
    }
    const auto& command = command_named(arguments[0]);
    const auto handler = command.keeps_progress ? on_interrupt : on_interrupt_leave;
    std::signal(SIGINT, handler);
    std::signal(SIGTERM, command.leaves_at_once ? on_interrupt_leave : handler);
    under_way().line.arguments = arguments;
    return command.run({arguments.begin() + 1, arguments.end()});
}

/// The exit status, whatever is thrown.
int guarded(int argc, char** argv) {
    const auto say = [](const std::string& sentence) { note("undershelf: {}\n", sentence); };
    try {
        claim_standard_files();
        stop_flag();
        const int status = run({argv + 1, argv + argc});
        flush_out();
        return status;
    } catch (const Error& e) {
        say(e.what());
        return status_of(e.trouble());
    } catch (const SQLite::Exception& e) {
        const auto error = shelf_error("The shelf", e);
        say(error.what());
        return status_of(error.trouble());
    } catch (const std::system_error& e) {
        say(fmt::format("{}.", e.what()));
    } catch (const std::bad_alloc&) {
        say("There is not enough memory for this. What was finished is kept.");
    } catch (const std::exception& e) {
        say(fmt::format("Unexpected error: {}. Finished work is saved. Please report this.", e.what()));
    }
    return no_input;
}

}  // namespace

}  // namespace undershelf::cli

int main(int argc, char** argv) {
    namespace cli = undershelf::cli;
    // With a zone in the environment the C library does not look at its file for every date.
    ::setenv("TZ", ":/etc/localtime", 0);
    std::signal(SIGPIPE, SIG_DFL);
    const int status = cli::guarded(argc, argv);
    try {
        cli::note_end(status);
    } catch (const std::exception&) {
        // How it ended stays unknown, as of a command that was cut off.
    }
    return status;
}
