#pragma once
// What was measured, as an entry: it gets a name from what is in it, or from where it is.

#include "unnamed/measure.hpp"
#include "volume/model.hpp"

namespace undershelf {

/// `source_size` decides how many digits places are written with, so that names sort by place.
Entry unnamed_entry(const Measured& found, std::uint64_t source_size);

}  // namespace undershelf
