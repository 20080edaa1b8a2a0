#include "export/exporter.hpp"

#include <fmt/format.h>
#include <sys/statvfs.h>
#include <tbb/parallel_for.h>

#include <algorithm>
#include <filesystem>
#include <utility>

#include "base/error.hpp"
#include "export/entry_place.hpp"
#include "export/room.hpp"
#include "volume/words.hpp"
#include "writing/output_file.hpp"

namespace fs = std::filesystem;

namespace undershelf {

namespace {

/// Files are written several at a time, so many together; a batch is synced to the drive when it has so much,
/// or so many, or is so old. The drive works on one while the next one is written.
constexpr std::uint64_t at_once_bytes = 32 << 20, batch_bytes = 64 << 20;
constexpr std::size_t at_once_files = 512;
constexpr std::uint64_t batch_files = 4096;
constexpr std::chrono::seconds batch_age{2};
/// What a file takes beside its content: its name in a folder, its lines.
constexpr std::uint64_t beside_content = 4096;

bool has_content(const ShelfEntry& e) {
    return !e.is_dir && e.layout != Layout::none;
}

/// Without what the last lines and tag files take.
std::uint64_t without_reserve(std::uint64_t room) {
    constexpr std::uint64_t most = 64 << 20, least = 1 << 20, share = 50;
    return room - std::min(room, std::clamp(room / share, least, most));
}

void skip(ExportedEntry& line, std::string why) {
    line.outcome = "skipped";
    line.why = std::move(why);
}

}  // namespace

Exporter::Exporter(const Shelf& shelf, const Source& source, const ExportOptions& options,
                   Destinations& destinations, std::size_t folder, ExportProgress& progress,
                   ExportResult& result)
    : shelf_(shelf),
      source_(source),
      options_(options),
      destinations_(destinations),
      number_(folder),
      progress_(progress),
      bag_(SourceGuard(source.path()), options.to[folder], owner_of(shelf, options)),
      already_(bag_, paths_, options.tree == ExportTree::keep, options.links),
      result_(result) {
    part_.folder = options.to[folder];
    part_.round = bag_.round();
    already_.tell(part_);
    files_before_ = result.complete + result.partial;
    bytes_before_ = result.bytes;
    if (options.to.size() > 1) {
        if (const auto room = Destinations::room_at(part_.folder)) room_ = without_reserve(*room);
        largest_ = largest_file_at(part_.folder);
    }
    if (options.links) {
        links_.emplace(shelf, options.selection);
        know_targets_of_before();
    }
    const auto volumes = shelf.volumes();
    several_volumes_ = std::count_if(volumes.begin(), volumes.end(),
                                     [](const Volume& v) { return v.state == VolumeState::present; }) > 1;
    for (const auto& e : bag_.before()) done_.emplace(e.id, &e);
}

Exporter::~Exporter() {
    try {
        writers_.wait();
    } catch (...) {
        // Something else is being thrown already, and says why.
    }
}

/// Links may lead to what earlier rounds have written.
void Exporter::know_targets_of_before() {
    Selection there;
    there.ids = already_.with_files();
    if (there.ids.empty()) return;
    shelf_.for_each(there, {}, [this](const ShelfEntry& e) {
        const auto* file = already_.find(e.id);
        if (file && file->line) links_->was_there(e, file->path, *file->line);
        return true;
    });
}

void Exporter::run() {
    last_commit_ = std::chrono::steady_clock::now();
    shelf_.for_each(options_.selection, {}, [this](const ShelfEntry& e) {
        e.is_dir ? add_folder(e) : add_file(e);
        if (gathered_ >= at_once_bytes || tasks_.size() >= at_once_files) write_gathered();
        return !(result_.interrupted |= progress_.progress.stopped());
    });
    write_gathered();
    finish_writing();
    if (result_.interrupted) {
        bag_.commit_unsynced();
    } else {
        finish();
    }
    part_.files = result_.complete + result_.partial - files_before_;
    part_.bytes = result_.bytes - bytes_before_;
    result_.parts.push_back(part_);
}

void Exporter::finish() {
    bag_.commit();
    recount_failed();
    std::erase_if(exported_, [this](const ExportedRevision& e) { return nameless_.count(e.entry) > 0; });
    part_.added = added_ || bag_.goes_on();
    // A new bag is one with nothing in it, too.
    if (!part_.added && !bag_.past().info().rounds.empty()) return bag_.leave();
    if (links_) make_links();
    // Deepest first: setting a folder's date before what is in it was written would be in vain.
    for (auto it = folder_times_.rbegin(); it != folder_times_.rend(); ++it) {
        if (made_.count(it->path)) set_folder_times(bag_.folder(), it->path, it->modified, it->accessed);
    }
    bag_.complete(fmt::format("Files from {}", fs::path(shelf_.source().path).filename().string()));
}

/// Has this bag it, or another one?
bool Exporter::is_done(const ShelfEntry& e) {
    if (const auto it = done_.find(e.id); it != done_.end() && it->second->revision == e.revision) {
        const auto& line = *it->second;
        result_.add(line);
        if (links_ && line.path_in_bag) links_->has_place(e, *line.path_in_bag, &line);
        if (line.path_in_bag) exported_.push_back({e.id, e.revision});
        ++result_.resumed;
        return true;
    }
    if (const auto* held = destinations_.elsewhere(e, number_)) {
        // Whoever comes first tells of all that is in finished rounds; who goes on with one tells of that.
        if (number_ > 0 || !held->finished) return true;
        ++result_.already;
        exported_.push_back({e.id, e.revision});
        return true;
    }
    const auto* file = already_.find(e.id);
    if (!file || file->path.empty() || file->revision < e.revision) return false;
    ++result_.already;
    result_.already_partial += file->partial;
    exported_.push_back({e.id, e.revision});
    return true;
}

void Exporter::add_file(const ShelfEntry& e) {
    if (is_done(e)) return;
    Task task{e, {}, line_of(e), false, false, {}};
    task.line.round = bag_.round();
    if (!has_content(e)) {
        skip(task.line, "nothing tells where its content was");
    } else {
        task.pieces = shelf_.pieces(e.id);
        if (is_mostly_holes(e, task.pieces, source_) && !has_id(options_.selection.ids, e.id)) {
            skip(task.line,
                 fmt::format("it is larger than its source, and nearly all of it is holes or lost; "
                             "`undershelf export SHELF --to DIR --id {}` exports it",
                             e.id));
        } else if (!has_room_for(e)) {
            ++left_over_;
            return;
        } else {
            name(task);
        }
    }
    // What an earlier round has skipped as well needs no line of its own.
    if (const auto* before = already_.find(e.id); task.line.outcome == "skipped" && before) {
        ++result_.skipped;
        return;
    }
    if (task.to_write) gathered_ += std::min(e.size, at_once_bytes);
    tasks_.push_back(std::move(task));
}

bool Exporter::has_room_for(const ShelfEntry& e) {
    if (!room_) return true;
    if (largest_ && e.size > *largest_) return false;
    const auto needed = room_for(shelf_, source_, e) + beside_content;
    if (needed > *room_) return false;
    *room_ -= needed;
    return true;
}

void Exporter::fail(ExportedEntry& line, const std::error_code& code) const {
    if (code.value() == ENOSPC && !out_of_names()) {
        throw Error(Trouble::output,
                    fmt::format("{} is full. What is finished is kept; free some space there and "
                                "run the same command again.",
                                bag_.folder().path()));
    }
    line.outcome = "failed";
    line.path_in_bag.reset();
    line.why = in_words(code);
}

/// A file system that has room for bytes but none for files.
bool Exporter::out_of_names() const {
    struct statvfs room {};
    return ::fstatvfs(bag_.folder().fd(), &room) == 0 && room.f_files > 0 && room.f_favail == 0;
}

/// Has what was gathered written by all cores, while the next files are gathered.
void Exporter::write_gathered() {
    finish_writing();
    writing_ = std::exchange(tasks_, {});
    gathered_ = 0;
    writers_.run([this] {
        tbb::parallel_for(std::size_t{0}, writing_.size(), [this](std::size_t i) {
            if (writing_[i].to_write) write(writing_[i]);
        });
    });
}

void Exporter::finish_writing() {
    writers_.wait();
    for (auto& task : writing_) {
        if (task.interrupted) {
            result_.interrupted = true;
            continue;  // no line, so that it is done again
        }
        if (task.trouble && is_full(task)) continue;
        if (task.trouble) fail_after_commit(task);
        if (links_ && task.line.path_in_bag)
            links_->has_place(task.entry, *task.line.path_in_bag, &task.line);
        add_line(std::move(task.line));
    }
    writing_.clear();
    commit_when_due();
}

void Exporter::commit_when_due() {
    const auto now = std::chrono::steady_clock::now();
    if (in_batch_ < batch_bytes && files_in_batch_ < batch_files && now - last_commit_ < batch_age) return;
    if (progress_.progress.stopped()) return;
    bag_.commit();
    recount_failed();
    in_batch_ = files_in_batch_ = 0;
    last_commit_ = now;
}

/// Full in spite of what was worked out, with another destination to go on with.
bool Exporter::is_full(const Task& task) {
    if (task.trouble.value() != ENOSPC || number_ + 1 >= options_.to.size()) return false;
    room_ = 0;
    ++left_over_;
    return true;
}

/// A full drive ends the export; what is finished is kept first.
void Exporter::fail_after_commit(Task& task) {
    try {
        fail(task.line, task.trouble);
    } catch (const Error&) {
        bag_.commit_unsynced();
        throw;
    }
}

void Exporter::write(Task& task) {
    try {
        if (progress_.progress.stopped()) {
            task.interrupted = true;
            return;
        }
        ContentStream stream(source_, std::move(task.pieces), task.entry.size);
        OutputFile out(bag_.folder(), Bag::part_path(task.entry.id));
        if (task.entry.size > source_.size()) out.try_size(task.entry.size);
        auto copied = copy_content(stream, out, [this](std::uint64_t n) { return wrote(n); });
        if ((task.interrupted = copied.interrupted)) return;
        out.set_times(task.entry.modified, task.entry.accessed);
        out.close();
        out.keep();
        describe(task, std::move(copied));
    } catch (const std::system_error& error) {
        task.trouble = error.code();
    }
}

bool Exporter::wrote(std::uint64_t bytes) {
    const std::lock_guard lock(progress_mutex_);
    progress_.progress.at(progress_.bytes_done += bytes, progress_.total);
    return !progress_.progress.stopped();
}

void Exporter::describe(Task& task, Copied&& copied) {
    auto& line = task.line;
    line.sha256 = std::move(copied.sha256);
    line.written = task.entry.size - total_length(copied.missing);
    line.missing = std::move(copied.missing);
    const auto grade = task.entry.rating.grade;
    if (!line.missing.empty()) {
        line.outcome = "partial";
        line.why = fmt::format("{} bytes are missing and filled with zeros", total_length(line.missing));
    } else if (grade == Grade::gone || grade == Grade::partial) {
        line.outcome = "partial";
        line.why = "bytes of it belong to other files now, or read as zeros";
    } else {
        line.outcome = "complete";
    }
}

/// Once everything has its place.
void Exporter::make_links() {
    const auto resolved = links_->resolved();
    std::vector<ExportedEntry> lines;
    for (const auto& r : resolved) lines.push_back(r.as_link);
    if (!bag_.make_links(lines)) return;
    result_.made_links += lines.size();
    for (const auto& r : resolved) {
        result_.take_back(r.as_text);
        result_.add(r.as_link);
    }
}

void Exporter::add_line(ExportedEntry line) {
    result_.add(line);
    added_ = true;
    if (line.path_in_bag) {
        in_batch_ += line.size;
        ++files_in_batch_;
        exported_.push_back({line.id, line.revision});
        destinations_.wrote(number_, line.id, line.revision);
    }
    bag_.add(std::move(line));
}

/// What was counted as written, and could not be given its name.
void Exporter::recount_failed() {
    for (const auto& line : bag_.take_failed()) {
        if (links_) links_->has_none(line.id);
        result_.take_back(line);
        ++result_.failed;
        nameless_.insert(line.id);
    }
}

}  // namespace undershelf
