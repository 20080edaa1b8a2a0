#pragma once
// Who holds a file that cannot be written to now.

#include <string>

namespace undershelf {

/// A sentence on the process that has a lock on the file at `path`, or on what SQLite keeps beside it, and on
/// what to do about it; empty when the system tells of no such process. `proc`: another place for tests.
std::string holder_of(const std::string& path, const std::string& proc = "/proc");

}  // namespace undershelf
