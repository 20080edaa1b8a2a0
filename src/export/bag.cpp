#include "export/bag.hpp"

#include <fcntl.h>
#include <fmt/format.h>
#include <sys/file.h>
#include <unistd.h>

#include <algorithm>
#include <cerrno>
#include <filesystem>
#include <iterator>
#include <nlohmann/json.hpp>
#include <system_error>
#include <unordered_map>
#include <utility>

#include "base/error.hpp"
#include "base/line_reader.hpp"
#include "base/sha256.hpp"
#include "base/timestamp.hpp"
#include "writing/output_file.hpp"

using nlohmann::json;

namespace undershelf {

namespace {
const std::string work = ".unfinished";
const std::string journal = work + "/journal.jsonl", fresh_journal = journal + ".new";
/// Parts are spread over some folders, so that several threads making files do not wait for one another.
constexpr std::int64_t part_folders = 16;
constexpr const char* job_label = "Undershelf-Job: ";

std::string part_folder(std::int64_t number) {
    return fmt::format("{}/{}", work, number % part_folders);
}

Bytes bytes_of(const std::string& text) {
    return {reinterpret_cast<const std::uint8_t*>(text.data()), text.size()};
}

std::string hash_of(const std::string& content) {
    Sha256 hash;
    hash.add(bytes_of(content));
    return hash.hex();
}

/// Empty where it cannot be read.
std::string hash_of_file(int fd) {
    Sha256 hash;
    ByteVector buffer(1 << 20);
    for (;;) {
        const auto n = ::read(fd, buffer.data(), buffer.size());
        if (n < 0 && errno == EINTR) continue;
        if (n < 0) return {};
        if (n == 0) return hash.hex();
        hash.add(Bytes(buffer).first(static_cast<std::size_t>(n)));
    }
}

/// Calls `visit` for the lines of a file of the bag; none where there is no file.
template <class Visit>
void each_line(const Folder& folder, const std::string& path, const Visit& visit) {
    if (!folder.is_file(path)) return;
    const auto fd = folder.open(path, O_RDONLY | O_NONBLOCK);
    LineReader lines(fd.get());
    for (std::string line; lines.next(line);) visit(line);
}

/// The sound lines of a journal or of exported.jsonl: the last one of each entry, in the order of the first.
/// The second says whether its content was synced.
std::vector<std::pair<ExportedEntry, bool>> entries_in(const Folder& folder, const std::string& path) {
    std::vector<std::pair<ExportedEntry, bool>> out;
    std::unordered_map<std::int64_t, std::size_t> place;
    each_line(folder, path, [&](const std::string& line) {
        auto e = from_json_line(line);
        if (!e || !is_sound(*e)) return;
        const bool synced = line.find("\"synced\":false") == std::string::npos;
        const auto [it, fresh] = place.emplace(e->id, out.size());
        if (fresh) {
            out.emplace_back(std::move(*e), synced);
        } else {
            out[it->second] = {std::move(*e), synced};
        }
    });
    return out;
}

Error cannot_write(const std::string& folder, const std::error_code& code) {
    return {
        Trouble::output,
        fmt::format("Nothing can be written to {}: {}. What is finished is kept. Check its permissions and "
                    "free space, and give the same command again.",
                    folder, in_words(code))};
}

Error not_empty(const std::string& folder) {
    return {Trouble::refused,
            fmt::format("{} is not empty; nothing there is overwritten. Give a new folder to export to.",
                        folder)};
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

Bag::Bag(const SourceGuard& guard, const std::string& folder, const std::string& job)
    : folder_(open_folder(guard, folder)), job_(job) {
    lock();
    const auto header = nlohmann::ordered_json{{"job", job}}.dump();
    try {
        load(header);
        folder_.make_folders("data");
        for (std::int64_t i = 0; i < part_folders; ++i) folder_.make_folders(part_folder(i));
        start_journal(header);
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

void Bag::load(const std::string& header) {
    if (const auto there = folder_.status(work); there && !S_ISDIR(there->st_mode))
        throw Error(
            Trouble::refused,
            fmt::format("{}/{} is not a folder of an export. It is not followed. Give a new folder to "
                        "export to.",
                        folder_.path(), work));
    if (folder_.is_file(journal)) return load_journal(header);
    if (folder_.is_file("bagit.txt") && folder_.is_file("exported.jsonl")) return reopen();
    if (!is_untouched()) throw not_empty(folder_.path());
}

/// Is nothing in it but what an export makes before it writes anything?
bool Bag::is_untouched() const {
    bool other = false;
    const auto empty = [&](const std::string& path) {
        folder_.each(path, [&](const std::string&, const struct stat&) { return !(other = true); });
        return !other;
    };
    folder_.each("", [&](const std::string& name, const struct stat& status) {
        if (name == "data" && S_ISDIR(status.st_mode)) return empty(name);
        if (name != work) return !(other = true);
        folder_.each(work, [&](const std::string& inner, const struct stat& s) {
            const auto path = work + "/" + inner;
            if (path == fresh_journal && S_ISREG(s.st_mode)) return true;
            return S_ISDIR(s.st_mode) ? empty(path) : !(other = true);
        });
        return !other;
    });
    return !other;
}

void Bag::load_journal(const std::string& header) {
    std::string first;
    {
        const auto fd = folder_.open(journal, O_RDONLY | O_NONBLOCK);
        LineReader(fd.get()).next(first);
    }
    if (first != header) {
        throw Error(Trouble::refused, fmt::format("{} holds an interrupted export of another job; finish "
                                                  "that one with its own selection or give a new folder.",
                                                  folder_.path()));
    }
    for (auto& [e, synced] : entries_in(folder_, journal)) {
        if (e.outcome != "failed" && is_there(e, synced)) before_.push_back(std::move(e));
    }
    take_parts_away();
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
        if (!folder_.status(*e.path_in_bag)) {
            if (!folder_.is_file(part_path(e.id))) return false;
            folder_.rename_without_replacing(part_path(e.id), *e.path_in_bag);
        }
        const auto fd = folder_.open(*e.path_in_bag, O_RDONLY | O_NONBLOCK);
        struct stat status {};
        if (::fstat(fd.get(), &status) != 0 || !S_ISREG(status.st_mode) ||
            static_cast<std::uint64_t>(status.st_size) != e.size)
            return false;
        return synced || hash_of_file(fd.get()) == e.sha256;
    } catch (const std::system_error&) {
        return false;
    }
}

/// A finished bag is opened again for the entries that failed.
void Bag::reopen() {
    bool same = false;
    each_line(folder_, "bag-info.txt", [&](const std::string& line) { same |= line == job_label + job_; });
    auto lines = entries_in(folder_, "exported.jsonl");
    const bool failed = std::any_of(lines.begin(), lines.end(),
                                    [](const auto& line) { return line.first.outcome == "failed"; });
    if (!same) throw not_empty(folder_.path());
    if (!failed)
        throw Error(
            Trouble::refused,
            fmt::format("{0} holds this export, finished. Check it with `undershelf verify {0}`, or give "
                        "a new folder.",
                        folder_.path()));
    for (auto& [e, synced] : lines) {
        if (e.outcome != "failed" && is_there(e, true)) before_.push_back(std::move(e));
    }
}

/// Written anew, so that a line cut off by an interruption does not spoil the next one.
void Bag::start_journal(const std::string& header) {
    std::string text = header + "\n";
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
    std::move(failed.begin(), failed.end(), std::back_inserter(failed_));
}

std::vector<ExportedEntry> Bag::take_failed() {
    wait();
    return std::exchange(failed_, {});
}

/// Writes tag files beside their places, has them on the drive all at once, then puts them there: our own may
/// be older than what was added since.
void Bag::write_tags(const std::vector<std::pair<const char*, const std::string*>>& tags) const {
    const auto place = [](const char* name) { return work + "/" + name; };
    for (const auto& [name, content] : tags) {
        OutputFile file(folder_, place(name));
        file.write(bytes_of(*content));
        file.close();
        file.keep();
    }
    sync();
    for (const auto& [name, content] : tags) folder_.rename(place(name), name);
}

/// The journal goes first: without it the bag is finished, whatever else cannot be removed (a file system
/// over a network or in user space keeps what somebody has open).
void Bag::take_work_away() const {
    if (folder_.is_file(journal)) folder_.remove(journal);
    folder_.remove_all(work);
}

void Bag::complete(const std::string& description) {
    commit();
    wait();
    try {
        put_tags(description);
        journal_.reset();
        take_work_away();
        sync();
    } catch (const std::system_error& e) {
        throw cannot_write(folder_.path(), e.code());
    }
}

void Bag::put_tags(const std::string& description) const {
    std::string manifest, exported;
    std::uint64_t bytes = 0, files = 0;
    each_line(folder_, journal, [&](const std::string& line) {
        const auto e = gist_of(line);
        // Of an entry that could not be given its name the second line counts.
        if (!e || (e->path_in_bag && nameless_.count(e->id))) return;
        exported += line + "\n";
        if (!e->path_in_bag) return;
        manifest += e->sha256 + "  " + *e->path_in_bag + "\n";
        bytes += e->size;
        ++files;
    });
    const auto today = iso8601(now_utc()).substr(0, 10);
    const std::string bagit = "BagIt-Version: 1.0\nTag-File-Character-Encoding: UTF-8\n";
    const auto info = fmt::format(
        "Bagging-Date: {}\nBag-Software-Agent: undershelf\nPayload-Oxum: {}.{}\nExternal-Description: "
        "{}\n{}{}\n",
        today, bytes, files, description, job_label, job_);
    std::string tags;
    for (const auto& [name, content] : {std::pair{"bag-info.txt", &info},
                                        {"exported.jsonl", &exported},
                                        {"manifest-sha256.txt", &manifest}}) {
        tags += hash_of(*content) + "  " + name + "\n";
    }
    tags += hash_of(bagit) + "  bagit.txt\n";
    write_tags({{"manifest-sha256.txt", &manifest},
                {"exported.jsonl", &exported},
                {"bag-info.txt", &info},
                {"tagmanifest-sha256.txt", &tags},
                {"bagit.txt", &bagit}});
}

}  // namespace undershelf
