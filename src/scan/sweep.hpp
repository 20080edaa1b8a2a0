#pragma once
// One pass over a whole source: blocks are read in order, looked through by all cores, and what is found
// comes back in order. Holes of sparse files are skipped, since they read as zeros.

#include <functional>

#include "base/progress.hpp"
#include "source/source.hpp"
#include "volume/file_system.hpp"

namespace undershelf {

/// Bytes behind its own that a buffer shows.
constexpr std::size_t sweep_margin = 64 << 10;

/// Sweeps from `from` on. `find` gets every buffer, from many threads at once; `found` what it returned, in
/// the order of the source, with the place up to which all is swept. Ends early once `found` says so. Returns
/// how far it came. Takes about 40 MiB whatever the source's size.
template <class Finds>
std::uint64_t sweep(const Source& source, std::uint64_t from,
                    const std::function<Finds(const SweepBuffer&)>& find,
                    const std::function<bool(Finds&&, std::uint64_t swept)>& found);

}  // namespace undershelf

#include "scan/sweep_pipeline.hpp"
