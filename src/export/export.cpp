#include "export/export.hpp"

#include <filesystem>

#include "export/exporter.hpp"
#include "export/room.hpp"

namespace fs = std::filesystem;

namespace undershelf {

ExportResult export_entries(const Shelf& shelf, const Source& source, const ExportOptions& options,
                            Progress& progress) {
    for (const auto& folder : options.to) SourceGuard(source.path()).refuse(folder);
    Destinations destinations(shelf, options);
    ExportProgress so_far{progress, 0, bytes_to_write(shelf, source, options, destinations)};
    progress.stage("exporting");
    ExportResult out;
    for (std::size_t i = 0; i < options.to.size(); ++i) {
        Exporter exporter(shelf, source, options, destinations, i, so_far, out);
        // What is refused until here is no export.
        const auto folder = fs::absolute(options.to[i]).lexically_normal().string();
        JobNote note(shelf.path(), Work::export_files, options.selection, options.command, folder);
        exporter.run();
        note.end(out.interrupted ? "interrupted"
                 : out.failed    ? "failed"
                                 : "done",
                 out.interrupted ? std::vector<ExportedRevision>() : exporter.exported());
        if (out.not_noted.empty()) out.not_noted = note.trouble();
        out.no_room = exporter.left_over();
        // A bag may have been cut off when it had everything but its end.
        if (out.interrupted || (!out.no_room && !destinations.unfinished_after(i))) break;
    }
    return out;
}

}  // namespace undershelf
