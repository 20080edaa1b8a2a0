#pragma once
// What commands say of themselves.

#include "cli/command.hpp"

namespace undershelf::cli {

/// With two examples. Of a selection it says where its options are.
void print_help(const Command& command, const po::options_description& options);
/// The options of a selection, once for all commands that have one.
void print_selection_help();

}  // namespace undershelf::cli
