#include "scan/check_contents.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <filesystem>

#include "base/batches.hpp"
#include "base/error.hpp"
#include "content/apart.hpp"
#include "content/formats.hpp"
#include "content/signature.hpp"
#include "rating/rate.hpp"
#include "scan/mend_contents.hpp"
#include "scan/outlook.hpp"
#include "scan/pieces_content.hpp"
#include "scan/rate_entries.hpp"
#include "scan/source_identity.hpp"
#include "shelf/database.hpp"
#include "volume/pieces.hpp"

namespace undershelf {

namespace {

struct Wanted {
    std::int64_t id = 0;
    std::uint64_t size = 0;
    std::string ext;
    bool live = false;
};

struct Job {
    Wanted file;
    std::vector<Piece> pieces;
    bool waits = false;    ///< some of it is not copied yet
    bool stopped = false;  ///< the work ended while it was read
    std::optional<Check> check;
};

std::vector<Wanted> wanted(const Shelf& shelf, const CheckOptions& options, CheckResult& result) {
    std::vector<Wanted> out;
    shelf.for_each(options.selection, {}, [&](const ShelfEntry& e) {
        if (!options.contents.may_want_name(content_extension(e.shown_name()))) return true;
        if (e.is_dir || e.link || e.size == 0 || e.layout == Layout::none || e.rating.grade == Grade::gone)
            return true;
        // What nothing names was found by reading it to its end.
        if (e.origin == Origin::unnamed) {
            ++result.unnamed;
        } else if (e.checked && *e.checked > 0 && !options.again) {
            ++result.before;
        } else {
            out.push_back({e.id, e.size, e.ext, e.origin == Origin::live});
        }
        return true;
    });
    return out;
}

std::uint64_t& counter_for(const Job& job, CheckResult& result) {
    const auto& check = *job.check;
    if (!check.complete) return check.cut ? result.cut : result.broken;
    std::vector<Evidence> evidence;
    if (check.loose_end) evidence.push_back({Fact::loose_end, 0, 0, {}});
    const bool proven = CheckedContent{check.strength, true, check.holds_to}.proves(job.file.size, evidence);
    return !proven ? result.held : job.file.live ? result.live_held : result.verified;
}

void count(const Job& job, CheckResult& result) {
    if (job.waits) {
        ++result.waiting;
        return;
    }
    ++result.files;
    if (!job.check) {
        ++result.unknown;
        return;
    }
    result.bytes += job.file.size;
    if (!job.check->finished) {
        ++result.unfinished;
        if (!result.first_unfinished) result.first_unfinished = {job.file.id, job.check->why};
    } else {
        ++counter_for(job, result);
    }
}

}  // namespace

CheckResult check_files(const Source& source, ShelfWriter& shelf, const CheckOptions& options,
                        Progress& progress) {
    CheckResult result;
    DecodersApart decoders(options.decoder_program);
    shelf.commit();
    const auto view = shelf.view();
    const auto files = wanted(view, options, result);
    std::uint64_t total = 0, done = 0;
    for (const auto& f : files) total += f.size;
    progress.stage("checking contents");
    progress.counts_bytes();
    std::size_t next = 0;
    in_order<Job>(
        [&](Job& job) {
            if (next == files.size() || progress.stopped()) return false;
            job.file = files[next++];
            job.pieces = view.pieces(job.file.id);
            return true;
        },
        [&](Job& job) {
            job.waits = touch(job.pieces, source.not_copied());
            if (job.waits) return;
            PiecesContent content(source, std::move(job.pieces), job.file.size, progress);
            job.check = decoders.check(content, {});
            job.stopped = progress.stopped();
        },
        [&](Job&& job) {
            // What was not read to its end is checked when the work goes on.
            if (job.stopped) return;
            count(job, result);
            // What is not copied yet is checked once it is.
            if (!job.waits)
                shelf.set_check(job.file.id, job.check,
                                kind_of_file(job.file.ext, format_shown_by(job.check)));
            progress.at(done += job.file.size, total);
        });
    shelf.commit();
    result.interrupted = progress.stopped();
    return result;
}

CheckResult check_contents(const CheckOptions& options, Progress& progress) {
    if (!std::filesystem::exists(options.shelf_path))
        throw Error(Trouble::input,
                    fmt::format("There is no shelf {}; make one with `undershelf scan SOURCE --shelf {}`.",
                                options.shelf_path, options.shelf_path));
    const auto source = open_source_of(Shelf(options.shelf_path), options.source_path);
    try {
        ShelfWriter shelf(SourceGuard(source->path()), options.shelf_path);
        const auto job = shelf.begin_job(Work::check, options.selection, options.command);
        auto result = check_files(*source, shelf, options, progress);
        rate_entries(*source, shelf.view().volumes(), shelf, progress);
        if (!result.interrupted) {
            const MendOptions mending{
                {false, options.selection, options.contents}, options.effort, options.decoder_program};
            result.mended = mend_contents(*source, mending, shelf, progress);
            if (result.mended) rate_entries(*source, shelf.view().volumes(), shelf, progress);
            result.interrupted = progress.stopped();
        }
        shelf.set_unreadable(*source);
        // What does not hold has no claim any more: there may be others' contents.
        if (!result.interrupted && !shelf.view().has_scanned(Reach::content))
            look_at_unclaimed(*source, shelf, progress);
        shelf.end_job(job, result.interrupted ? "interrupted" : "done");
        shelf.commit();
        return result;
    } catch (const SQLite::Exception& e) {
        throw shelf_error(options.shelf_path, e);
    }
}

}  // namespace undershelf
