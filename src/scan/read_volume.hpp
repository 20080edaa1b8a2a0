#pragma once
// One volume, present or former, into the shelf.

#include <vector>

#include "base/progress.hpp"
#include "shelf/writer.hpp"
#include "volume/file_system.hpp"

namespace undershelf {

/// Reads all that its file system tells of a volume, by `traces` where it is a former one. `lost`: places of
/// folders of it that a sweep has found. It is marked as read unless `progress` ends it.
void read_volume(const FileSystem& file_system, const Source& source, const Volume& volume,
                 const TraceStore& traces, const ReadOptions& options, ShelfWriter& shelf, Progress& progress,
                 const std::vector<std::uint64_t>& lost = {});

}  // namespace undershelf
