#include "scan/read_volume.hpp"

#include "scan/volume_sink.hpp"

namespace undershelf {

void read_volume(const FileSystem& file_system, const Source& source, const Volume& volume,
                 const TraceStore& traces, const ReadOptions& options, ShelfWriter& shelf, Progress& progress,
                 const std::vector<std::uint64_t>& lost) {
    VolumeSink sink(volume, source.size(), shelf, progress);
    const auto reader = file_system.open(source, volume, traces, options);
    reader->expect_folders(lost);
    reader->read(sink, progress);
    if (!progress.stopped()) reader->remnants(sink, progress);
    sink.finish();
    if (!progress.stopped()) shelf.set_volume_progress(volume.number, "read");
}

}  // namespace undershelf
