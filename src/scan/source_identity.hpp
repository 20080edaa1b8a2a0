#pragma once
// By what a shelf knows its source again: its size, and the hashes of short stretches spread over it.

#include <string>
#include <vector>

#include "shelf/writer.hpp"
#include "source/samples.hpp"

namespace undershelf {

/// What differs between a source and what a shelf remembers of its own, as the end of a sentence; empty when
/// nothing does.
std::string source_difference(const Source& source, const SourceRecord& record,
                              const std::vector<SourceSample>& samples);

/// Opens the source of a shelf: at `path` when given, else where the shelf says it was. What the shelf
/// remembers as unreadable is not tried again; what was not copied then may be now. Throws Error(input) when
/// it is not there or another one.
std::unique_ptr<Source> open_source_of(const Shelf& shelf, const std::string& path = {});

}  // namespace undershelf
