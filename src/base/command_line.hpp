#pragma once
// Commands as they are typed into a shell.

#include <string>
#include <vector>

namespace undershelf {

/// The words with blanks between them; those that a shell would not take as they are in quotes.
std::string command_line(const std::vector<std::string>& argv);

}  // namespace undershelf
