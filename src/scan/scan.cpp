#include "scan/scan.hpp"

#include <fmt/format.h>

#include <filesystem>

#include "base/print.hpp"
#include "layout/find_volumes.hpp"
#include "scan/check_contents.hpp"
#include "scan/mend_contents.hpp"
#include "scan/outlook.hpp"
#include "scan/places.hpp"
#include "scan/rate_entries.hpp"
#include "scan/read_volume.hpp"
#include "scan/refresh.hpp"
#include "scan/same_content.hpp"
#include "scan/settings.hpp"
#include "scan/settle.hpp"
#include "scan/source_identity.hpp"
#include "scan/source_sweep.hpp"
#include "scan/unnamed_contents.hpp"
#include "shelf/database.hpp"
#include "shelf/writer.hpp"
#include "systems/file_systems.hpp"

namespace undershelf {

namespace {

void check_same_source(const ScanOptions& options, const Source& source, const ShelfWriter& shelf) {
    const auto view = shelf.view();
    if (const auto difference = source_difference(source, view.source(), shelf.samples());
        !difference.empty()) {
        throw Error(Trouble::input,
                    fmt::format("{} is not the source of {}: {}. Choose another shelf with --shelf.",
                                options.source_path, options.shelf_path, difference));
    }
    if (const auto& before = shelf.state().settings; before != settings_text(options)) {
        throw Error(
            Trouble::usage,
            fmt::format(
                "{} was made with other settings ({}); these are: {}. Choose another shelf with --shelf.",
                options.shelf_path, before, settings_text(options)));
    }
}

/// `lost`: places of folders of it that a sweep has found.
void read_present(const Source& source, const Volume& volume, const ReadOptions& options, ShelfWriter& shelf,
                  Progress& progress, const std::vector<std::uint64_t>& lost = {}) {
    const auto* fs = file_system_of(volume);
    if (!fs || !volume.readable) return;
    if (shelf.volume_progress(volume.number) == "again") {
        shelf.take_out_present(volume.number);
    } else {
        shelf.clear_volume(volume.number);
        shelf.set_volume_progress(volume.number, "reading");
    }
    const RangeSet nothing;
    read_volume(*fs, source, volume, *shelf.traces(fs->family(), nothing), options, shelf, progress, lost);
}

/// The volumes of the shelf, and room for more.
class Volumes {
  public:
    Volumes(const SourceLayout& layout, ShelfWriter& shelf) : shelf_(shelf) {
        for (const auto& r : layout.volumes) {
            taken_.push_back({r.volume.offset, r.volume.size});
            next_number_ = std::max(next_number_, r.volume.number + 1);
        }
        if (shelf.fresh()) return;
        const auto view = shelf.view();
        for (const auto& v : view.volumes()) {
            if (v.state == VolumeState::present) keep(v);
        }
        next_number_ = std::max(next_number_, view.last_volume_number() + 1);
    }

    void add(const std::vector<Recognition>& found) {
        std::vector<Volume> fresh;
        for (const auto& r : found) {
            if (r.volume.readable) fresh.push_back(r.volume);
        }
        shelf_.set_volumes(fresh);
        for (const auto& v : fresh) keep(v);
    }
    /// Those that are where none was known.
    void add_new(std::vector<Recognition> found) {
        const auto known = taken_of(all_);
        std::erase_if(found, [&](const Recognition& r) {
            return known.touches({r.volume.offset, r.volume.size});
        });
        for (auto& r : found) r.volume.number = next_number_++;
        add(found);
    }
    const std::vector<Volume>& all() const { return all_; }
    RangeSet taken() const { return RangeSet(taken_); }
    int next_number() const { return next_number_; }

  private:
    static RangeSet taken_of(const std::vector<Volume>& volumes) {
        std::vector<ByteRange> out;
        for (const auto& v : volumes) out.push_back({v.offset, v.size});
        return RangeSet(std::move(out));
    }
    void keep(const Volume& v) {
        all_.push_back(v);
        taken_.push_back({v.offset, v.size});
        next_number_ = std::max(next_number_, v.number + 1);
    }

    ShelfWriter& shelf_;
    std::vector<Volume> all_;
    std::vector<ByteRange> taken_;
    int next_number_ = 1;
};

void read_volumes(const Source& source, const Volumes& volumes, const ReadOptions& options,
                  ShelfWriter& shelf, Progress& progress) {
    for (const auto& volume : volumes.all()) {
        if (progress.stopped()) break;
        if (shelf.volume_progress(volume.number) != "read")
            read_present(source, volume, options, shelf, progress);
    }
}

std::string print_of(const std::vector<std::uint64_t>& places) {
    Print print;
    for (const auto place : places) print.add(place);
    return fmt::format("{} {:016x}", places.size(), print.value());
}

/// Reads a large volume again where the sweep has found folders that it has lost track of.
void read_lost_track(const Source& source, const Volumes& volumes, const ReadOptions& options,
                     VolumeSettler& settler, ShelfWriter& shelf, Progress& progress) {
    for (const auto& volume : volumes.all()) {
        if (progress.stopped()) return;
        progress.stage("looking at what was found");
        const auto lost = settler.lost_folders(volume);
        // What it could not make anything of before is no reason to read it again.
        const auto& before = shelf.state().lost_folders;
        const auto it = before.find(volume.number);
        if (lost.empty() || (it != before.end() && it->second == print_of(lost))) continue;
        shelf.read_again(volume.number);
        read_present(source, volume, options, shelf, progress, lost);
        if (progress.stopped()) return;
        const auto now = print_of(settler.lost_folders(volume));
        shelf.change_state([&](ScanState& state) { state.lost_folders[volume.number] = now; });
    }
}

/// Sweeps, and reads the volumes that only now were found. False when the sweep did not come to the end.
bool sweep_for_volumes(const Source& source, const ScanOptions& options, const Hints& hints,
                       const RangeSet& gained, Volumes& volumes, ShelfWriter& shelf, Progress& progress) {
    SourceSweep sweep(source, shelf);
    if (!gained.empty()) sweep.run_again(gained, progress);
    if (progress.stopped()) return false;
    const bool starts = options.reach == Reach::content;
    if (!sweep.complete() || (starts && !sweep.has_starts())) sweep.run(starts, progress);
    if (progress.stopped()) return false;
    progress.stage("looking at what was found");
    const auto found = sweep.volumes_at_heads(volumes.taken(), volumes.next_number(), options.read, progress);
    if (progress.stopped()) return false;
    for (const auto& remark : found.remarks) shelf.add_remark(remark);
    volumes.add(found.volumes);
    read_volumes(source, volumes, options.read, shelf, progress);
    std::vector<std::uint64_t> heads;
    for (const auto& h : sweep.heads().heads()) heads.push_back(h.offset);
    VolumeSettler settler(source, shelf, options.read, heads);
    if (auto headless = settler.present_ones(progress); !headless.empty()) {
        for (auto& r : headless) r.volume.number = volumes.next_number();
        volumes.add(headless);
        read_volumes(source, volumes, options.read, shelf, progress);
    }
    read_lost_track(source, volumes, options.read, settler, shelf, progress);
    if (!progress.stopped()) settler.former_ones(hints, progress);
    if (progress.stopped() || !sweep.complete()) return false;
    if (!sweep.settled()) {
        for (const auto& remark : sweep.remarks()) shelf.add_remark(remark);
        sweep.set_settled();
    }
    return true;
}

void run_passes(const Source& source, const ScanOptions& options, const Hints& hints, Refresh& refresh,
                Volumes& volumes, ShelfWriter& shelf, ScanResult& result, Progress& progress) {
    shelf.begin_scan(options.reach, options.command);
    if (!options.contents.empty())
        shelf.watch_for([&](std::string_view ext) { return options.contents.wants_name(ext); });
    if (refresh.needed()) refresh.begin();
    read_volumes(source, volumes, options.read, shelf, progress);
    bool all = !progress.stopped();
    // What was swept once is swept where it can be read only now, however far this scan is to go.
    if (all && (options.reach >= Reach::traces || (refresh.needed() && shelf.view().has_swept())))
        all = sweep_for_volumes(source, options, hints, refresh.gained(), volumes, shelf, progress);
    shelf.set_unreadable(source);
    shelf.commit();
    if (!progress.stopped()) settle_places(source, shelf, progress);
    shelf.commit();
    rate_entries(source, shelf.view().volumes(), shelf, progress);
    if (!progress.stopped() && options.reach != Reach::content) find_same_content(source, shelf, progress);
    if (!progress.stopped() && options.reach == Reach::content) {
        CheckOptions checks;
        checks.selection.lost = true;
        checks.contents = options.contents;
        checks.decoder_program = options.decoder_program;
        check_files(source, shelf, checks, progress);
        rate_entries(source, shelf.view().volumes(), shelf, progress);
        const auto mend = [&](bool unnamed, const Narrowing& contents) {
            const MendOptions mending{
                {unnamed, checks.selection, contents}, options.effort, options.decoder_program};
            if (!progress.stopped() && mend_contents(source, mending, shelf, progress) > 0)
                rate_entries(source, shelf.view().volumes(), shelf, progress);
        };
        mend(false, options.contents);
        if (!progress.stopped() && all) {
            // What was asked for before stays.
            const auto wanted = options.contents.joined(shelf.state().contents);
            if (find_unnamed(source, wanted, options.decoder_program, shelf, progress) > 0)
                rate_entries(source, shelf.view().volumes(), shelf, progress);
            mend(true, wanted);
            if (!progress.stopped())
                shelf.change_state([&](ScanState& state) { state.contents = wanted.words(); });
        }
        if (!progress.stopped()) find_same_content(source, shelf, progress);
        if (!progress.stopped()) shelf.merge_unnamed_copies();
    }
    shelf.set_unreadable(source);  // rating looks at contents, and may have met more
    result.interrupted = !all || progress.stopped();
    if (!result.interrupted && options.reach != Reach::content) look_ahead(source, shelf, progress);
    if (!result.interrupted && options.reach == Reach::content) forget_outlook(shelf);
    if (!result.interrupted && refresh.needed()) refresh.end();
    if (!result.interrupted) shelf.change_state([](ScanState& state) { state.brought_up_from = 0; });
    shelf.end_scan(result.interrupted ? "interrupted" : "done");
}

ScanResult scan_into(ShelfWriter& shelf, const ScanOptions& options, const Source& source,
                     const SourceLayout& layout, Progress& progress) {
    ScanResult result;
    const bool fresh = shelf.fresh();
    if (fresh) {
        shelf.set_source({std::filesystem::absolute(options.source_path).lexically_normal().string(),
                          source.size(), source.sector_size()},
                         sample_source(source));
        shelf.change_state([&](ScanState& state) { state.settings = settings_text(options); });
    } else {
        shelf.commit();
        check_same_source(options, source, shelf);
        const auto view = shelf.view();
        result.was_complete =
            options.reach == Reach::content
                ? view.has_scanned(Reach::content) && options.contents.within(shelf.state().contents)
                : view.has_scanned(options.reach) || view.has_swept();
    }
    Volumes volumes(layout, shelf);
    // A new shelf has its source and its volumes with the first commit, or nothing.
    if (fresh) volumes.add(layout.volumes);
    if (!fresh) {
        for (const auto& r : layout.volumes) shelf.set_grid_start(r.volume);
    }
    shelf.commit();
    Refresh refresh(source, shelf, options.unreadable_list);
    // An earlier version rated what was found by what was known then.
    if (refresh.needed() || shelf.state().brought_up_from) result.was_complete = false;
    result.gained = refresh.gained().bytes();
    if (refresh.needed()) volumes.add_new(layout.volumes);
    note_layout(source, layout, shelf);
    const Hints before(shelf);
    auto hints = before;
    for (const auto& told : options.told) hints.add(told);
    for (const auto number : options.without) hints.leave_out(shelf, number);
    if (!options.told.empty() || !options.without.empty()) {
        hints.save(shelf);
        result.was_complete = false;
    }
    try {
        if (!result.was_complete)
            run_passes(source, options, hints, refresh, volumes, shelf, result, progress);
        else if (!shelf.state().space && !shelf.view().has_scanned(Reach::content))
            look_at_unclaimed(source, shelf, progress);
    } catch (const Error&) {
        before.save(shelf);  // what cannot be is not said again
        throw;
    }
    const auto view = shelf.view();
    result.volumes = view.volumes();
    Selection counted;
    counted.no_helpers = true;
    result.entries = view.count(counted);
    for (const auto& t : view.tally(Shelf::TallyBy::origin)) {
        if (t.key == static_cast<int>(Origin::unnamed) && !t.is_dir) result.unnamed += t.entries;
    }
    result.diagnostics = view.diagnostics();
    result.unreadable = view.unreadable_for_good();
    result.not_copied = view.not_copied();
    return result;
}

}  // namespace

ScanResult scan(const ScanOptions& options, Progress& progress) {
    const auto source = open_source(options.source_path, {options.unreadable_list});
    const SourceGuard guard(options.source_path);
    guard.refuse(options.shelf_path);
    progress.stage("looking for volumes");
    const auto layout = find_volumes(*source, file_systems(), options.read);
    try {
        ShelfWriter shelf(guard, options.shelf_path);
        return scan_into(shelf, options, *source, layout, progress);
    } catch (const SQLite::Exception& e) {
        throw shelf_error(options.shelf_path, e);
    }
}

}  // namespace undershelf
