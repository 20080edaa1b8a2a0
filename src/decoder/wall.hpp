#pragma once
// What keeps the process that reads contents from everything but the socket that it is asked through.

#include <cstdint>

namespace undershelf {

/// Closes all files but the three standard ones, and bounds memory (bytes of address space), files and core
/// dumps. From then on the process can compute, ask for memory, read and write what it has open, and end.
/// Calls that open files fail; any other call ends it. Returns false where the system cannot be asked for
/// that, and says why on standard error.
bool close_wall(std::uint64_t memory);

}  // namespace undershelf
