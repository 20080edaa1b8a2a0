#include "scan/scan.hpp"

#include <fmt/format.h>

#include <filesystem>

#include "layout/find_volumes.hpp"
#include "scan/bins.hpp"
#include "scan/file_systems.hpp"
#include "scan/rate_entries.hpp"
#include "scan/same_content.hpp"
#include "scan/source_identity.hpp"
#include "scan/volume_sink.hpp"
#include "shelf/writer.hpp"
#include "source/destination_guard.hpp"

namespace undershelf {

namespace {

/// The settings that decide what a scan finds; a shelf is only gone on with under the same ones.
std::string settings_text(const ScanOptions& o) {
    return fmt::format("code page {}; zone {}; unreadable list {}", o.read.code_page,
                       o.read.zone_minutes ? fmt::format("{} minutes", *o.read.zone_minutes) : "unknown",
                       o.unreadable_list.empty() ? "none" : o.unreadable_list);
}

void check_same_source(const ScanOptions& options, const Source& source, const ShelfWriter& shelf) {
    const auto view = shelf.view();
    if (const auto difference = source_difference(source, view.source(), shelf.samples());
        !difference.empty()) {
        throw Error(Trouble::input,
                    fmt::format("{} is not the source of {}: {}. Choose another shelf with --shelf.",
                                options.source_path, options.shelf_path, difference));
    }
    if (const auto before = view.setting("scan"); before != settings_text(options)) {
        throw Error(
            Trouble::usage,
            fmt::format(
                "{} was made with other settings ({}); these are: {}. Choose another shelf with --shelf.",
                options.shelf_path, before, settings_text(options)));
    }
}

void read_volume(const Source& source, const Volume& volume, const ReadOptions& options, ShelfWriter& shelf,
                 Progress& progress) {
    const auto* fs = file_system_of(volume);
    if (!fs || !volume.readable) return;
    shelf.clear_volume(volume.number);
    shelf.set_volume_progress(volume.number, "reading");
    VolumeSink sink(volume, source.size(), shelf, progress);
    const auto reader = fs->open(source, volume, options);
    reader->read(sink, progress);
    if (!progress.stopped()) reader->remnants(sink, progress);
    sink.finish();
    if (!progress.stopped()) shelf.set_volume_progress(volume.number, "read");
}

}  // namespace

ScanResult scan(const ScanOptions& options, Progress& progress) {
    const auto source = open_source(options.source_path, {options.unreadable_list});
    refuse_destination_on_source(options.source_path, options.shelf_path);
    progress.stage("looking for volumes");
    auto layout = find_volumes(*source, file_systems(), options.read);
    ScanResult result;
    for (auto& r : layout.volumes) {
        if (r.volume.readable) result.volumes.push_back(r.volume);
    }
    if (result.volumes.empty()) {
        throw Error(
            Trouble::input,
            fmt::format("{} holds no volume that can be scanned: this version reads FAT12, FAT16, "
                        "FAT32, exFAT, NTFS and HFS+. Check with `undershelf inspect {}` what is there.",
                        options.source_path, options.source_path));
    }

    ShelfWriter shelf(options.shelf_path);
    if (shelf.fresh()) {
        shelf.set_source({std::filesystem::absolute(options.source_path).lexically_normal().string(),
                          source->size(), source->sector_size()},
                         sample_source(*source));
        shelf.set_setting("scan", settings_text(options));
        shelf.set_volumes(result.volumes);
    } else {
        shelf.commit();
        check_same_source(options, *source, shelf);
        const auto last = shelf.view().last_scan();
        result.was_complete = last && last->state == "done";
    }
    if (!result.was_complete) {
        shelf.begin_scan("volumes");
        for (const auto& volume : result.volumes) {
            if (progress.stopped()) break;
            if (shelf.volume_progress(volume.number) != "read")
                read_volume(*source, volume, options.read, shelf, progress);
        }
        shelf.set_unreadable(source->unreadable());
        shelf.commit();
        if (!progress.stopped()) find_binned(*source, shelf, progress);
        rate_entries(*source, result.volumes, shelf, progress);
        if (!progress.stopped()) find_same_content(*source, shelf, progress);
        shelf.set_unreadable(source->unreadable());  // rating looks at contents, and may have met more
        result.interrupted = progress.stopped();
        shelf.end_scan(result.interrupted ? "interrupted" : "done");
    }
    const auto view = shelf.view();
    result.entries = view.count({});
    result.diagnostics = view.diagnostics();
    result.unreadable = view.unreadable();
    return result;
}

}  // namespace undershelf
