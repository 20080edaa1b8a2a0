#pragma once
// Runs the built program as a user would.

#include <string>
#include <vector>

namespace undershelf::test {

struct Ran {
    int status = -1;  ///< exit status, or minus the signal that ended it
    std::string out, err;
};

/// Runs a program in a folder, with nothing on standard input.
Ran run_in(const std::string& folder, const std::vector<std::string>& command);

}  // namespace undershelf::test
