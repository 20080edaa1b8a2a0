#pragma once
// What the process that contents are read by may take, and where it is.

#include <cstdint>
#include <string>

namespace undershelf {

/// What a process may take for a content.
struct ApartBounds {
    std::uint64_t memory = 2ull << 30;  ///< bytes of address space
    int silence = 60;                   ///< seconds without a word, after which it is ended
    /// So many times may it ask for bytes and memory, and once more for every 256 bytes of the content.
    std::uint64_t questions = 1 << 20;
};

/// The decoder's file, beside the program that runs or beside the library that this is in; empty where it is
/// not there.
std::string decoder_beside();

}  // namespace undershelf
