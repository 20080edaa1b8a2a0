#include "export/bag.hpp"

#include <fcntl.h>
#include <fmt/format.h>
#include <sys/file.h>
#include <unistd.h>

#include <cerrno>
#include <filesystem>
#include <system_error>
#include <utility>

#include "base/sha256.hpp"
#include "export/bag_files.hpp"

namespace undershelf {

using namespace bag_file;

namespace {
/// Parts are spread over some folders, so that several threads making files do not wait for one another.
constexpr std::int64_t part_folders = 16;
std::string part_folder(std::int64_t number) {
    return fmt::format("{}/{}", work, number % part_folders);
}

Folder open_folder(const SourceGuard& guard, const std::string& path) {
    std::error_code ec;
    if (std::filesystem::exists(path, ec) && !std::filesystem::is_directory(path, ec))
        throw Error(Trouble::refused, fmt::format("{} is a file; give a folder to export to.", path));
    try {
        return Folder(guard, path);
    } catch (const std::system_error& e) {
        throw cannot_write(path, e.code());
    }
}

}  // namespace

Bag::Bag(const SourceGuard& guard, const std::string& folder, BagOwner owner)
    : folder_(open_folder(guard, folder)), owner_(std::move(owner)) {
    lock();
    try {
        begin();
        folder_.make_folders("data");
        for (std::int64_t i = 0; i < part_folders; ++i) folder_.make_folders(part_folder(i));
        start_journal();
    } catch (const std::system_error& e) {
        throw cannot_write(folder, e.code());
    }
}

Bag::~Bag() {
    if (publishing_.valid()) publishing_.wait();
}

/// Two exports into one folder would write over each other's parts.
void Bag::lock() {
    if (::flock(folder_.fd(), LOCK_EX | LOCK_NB) != 0 && errno == EWOULDBLOCK) {
        throw Error(Trouble::refused,
                    fmt::format("Another export is writing to {}; wait for it, or give another folder.",
                                folder_.path()));
    }
}

void Bag::begin() {
    past_.emplace(folder_, owner_);
    round_ = past_->next_round();
    if (past_->state() == BagState::finished) finish_moving();
    goes_on_ = past_->state() == BagState::unfinished;
    for (auto& [e, synced] : past_->unfinished()) {
        e.round = round_;
        if (e.outcome != "failed" && is_there(e, synced)) before_.push_back(std::move(e));
    }
    take_parts_away();
}

/// A finished round whose tag files are not all in their places.
void Bag::finish_moving() {
    if (!folder_.status(new_tags)) return;
    for (const char* name : tag_files) {
        const auto waiting = new_tags + "/" + name;
        if (folder_.is_file(waiting)) folder_.rename(waiting, name);
    }
    take_work_away();
    sync();
}

/// Parts without a line were not synced when the export was cut off.
void Bag::take_parts_away() const {
    for (std::int64_t i = 0; i < part_folders; ++i) {
        const auto there = folder_.status(part_folder(i));
        if (!there || !S_ISDIR(there->st_mode)) continue;
        std::vector<std::string> parts;
        folder_.each(part_folder(i), [&](const std::string& name, const struct stat& s) {
            if (S_ISREG(s.st_mode) && name.ends_with(".part")) parts.push_back(part_folder(i) + "/" + name);
            return true;
        });
        for (const auto& part : parts) folder_.remove(part);
    }
}

/// A line counts with its file, under its name or still under its part's. What was not synced must have the
/// right content as well: the machine may have lost it.
bool Bag::is_there(const ExportedEntry& e, bool synced) const {
    if (!e.path_in_bag) return true;
    try {
        // What was made a link is written and made one again.
        if (e.link && folder_.link_target(*e.path_in_bag)) {
            folder_.remove(*e.path_in_bag);
            return false;
        }
        if (!folder_.status(*e.path_in_bag)) {
            if (!folder_.is_file(part_path(e.id))) return false;
            folder_.rename_without_replacing(part_path(e.id), *e.path_in_bag);
        }
        const auto fd = folder_.open(*e.path_in_bag, O_RDONLY | O_NONBLOCK);
        struct stat status {};
        if (::fstat(fd.get(), &status) != 0 || !S_ISREG(status.st_mode) ||
            static_cast<std::uint64_t>(status.st_size) != e.size)
            return false;
        return synced || sha256_of_file(fd.get()) == e.sha256;
    } catch (const std::system_error&) {
        return false;
    }
}

/// Written anew, so that a line cut off by an interruption does not spoil the next one.
void Bag::start_journal() {
    std::string text = journal_header(owner_, round_) + "\n";
    for (const auto& e : before_) text += to_json_line(e) + "\n";
    OutputFile file(folder_, fresh_journal);
    file.write(bytes_of(text));
    file.sync();
    file.close();
    folder_.rename(fresh_journal, journal);
    file.keep();
    journal_ = folder_.open(journal, O_WRONLY | O_APPEND);
}

std::string Bag::part_path(std::int64_t id) {
    return fmt::format("{}/{}.part", part_folder(id), id);
}

void Bag::add(ExportedEntry entry) {
    waiting_.push_back(std::move(entry));
}

void Bag::wait() {
    if (publishing_.valid()) publishing_.get();
}

void Bag::commit() {
    wait();
    if (waiting_.empty()) return;
    publishing_ = std::async(std::launch::async, [this, batch = std::move(waiting_)]() mutable {
        sync();
        publish(std::move(batch), true);
    });
    waiting_.clear();
}

void Bag::commit_unsynced() {
    wait();
    publish(std::move(waiting_), false);
    waiting_.clear();
}

void Bag::append(const std::vector<ExportedEntry>& lines, bool synced) {
    std::string text;
    for (const auto& e : lines) {
        text += to_json_line(e);
        if (!synced) text.insert(text.size() - 1, ",\"synced\":false");
        text += '\n';
    }
    for (std::size_t at = 0; at < text.size();) {
        const auto n = ::write(journal_.get(), text.data() + at, text.size() - at);
        if (n < 0 && errno == EINTR) continue;
        if (n < 0) throw cannot_write(folder_.path(), {errno, std::generic_category()});
        at += static_cast<std::size_t>(n);
    }
    if (synced && ::fdatasync(journal_.get()) != 0)
        throw cannot_write(folder_.path(), {errno, std::generic_category()});
}

void Bag::sync() const {
    if (::syncfs(folder_.fd()) != 0) throw cannot_write(folder_.path(), {errno, std::generic_category()});
}

void Bag::publish(std::vector<ExportedEntry> batch, bool synced) {
    append(batch, synced);
    std::vector<ExportedEntry> failed;
    for (auto& e : batch) {
        if (!e.path_in_bag) continue;
        try {
            folder_.rename_without_replacing(part_path(e.id), *e.path_in_bag);
        } catch (const std::system_error& error) {
            failed_.push_back(e);
            e.outcome = "failed";
            e.why = in_words(error.code());
            e.path_in_bag.reset();
            e.sha256.clear();
            e.written = 0;
            nameless_.insert(e.id);
            failed.push_back(std::move(e));
        }
    }
    append(failed, synced);
}

std::vector<ExportedEntry> Bag::take_failed() {
    wait();
    return std::exchange(failed_, {});
}

}  // namespace undershelf
