#pragma once
// The process that this program starts to decode what is trusted less.

#include <string>
#include <vector>

namespace undershelf::cli {

/// Is this what the program was started for? Nobody types it, and no help lists it.
bool is_decode_apart(const std::vector<std::string>& arguments);
/// Serves checks on its standard input until that is closed. Returns an exit status.
int decode_apart(const std::vector<std::string>& arguments);
/// The file of this program.
std::string own_program();

}  // namespace undershelf::cli
