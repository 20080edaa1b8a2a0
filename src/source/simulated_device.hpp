#pragma once
// The stand-in for a drive that is failing in its own way: places that fail, that fail a few times, that are
// slow, and a drive that dies under the work. For tests, training and the demo.

#include <memory>
#include <string>
#include <vector>

#include "source/byte_device.hpp"

namespace undershelf {

struct SimulatedPlace {
    enum class Kind : std::uint8_t {
        fails,  ///< `times` times, then reads
        slow,   ///< `milliseconds` for every read that touches it
    };
    ByteRange range;
    Kind kind = Kind::fails;
    std::uint64_t times = ~0ull;
    std::uint64_t milliseconds = 0;
};

struct Simulation {
    std::vector<SimulatedPlace> places;
    std::uint64_t dies_after_reads = ~0ull;
    std::uint64_t dies_after_bytes = ~0ull;
};

/// Reads a CSV with the header `offset,length,behaviour`; behaviours are `fail`, `fail N`, `slow MS`, and, of
/// the whole drive, `die after N reads` and `die after N bytes`. A list with the header `offset,length` has
/// places that fail. Throws Error(input) that names the file and the line that is wrong.
Simulation read_simulation(const std::string& path);

/// `inner`, failing as `simulation` says. A read stops at the first sector that fails; every sector that
/// fails counts the tries of its own.
std::unique_ptr<ByteDevice> make_simulated_device(std::unique_ptr<ByteDevice> inner, Simulation simulation);

}  // namespace undershelf
