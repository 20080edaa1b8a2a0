#pragma once
// What keeps the process that reads contents from everything but the socket that it is asked through.

#include <cstdint>

namespace undershelf {

/// What is left to see.
enum class Outside : std::uint8_t {
    nothing,
    fonts,  ///< the system's fonts, and what says which there are; where the system can see to that
            ///< (Landlock)
};

/// Closes all files but the three standard ones, and bounds memory (bytes of address space), files and core
/// dumps. From then on the process can compute, ask for memory, read and write what it has open, and end.
/// Calls that open anything else than `outside` fail; any other call ends it. What draws may have threads.
/// Returns false where the system cannot be asked for that, and says why on standard error.
bool close_wall(std::uint64_t memory, Outside outside = Outside::nothing);

}  // namespace undershelf
