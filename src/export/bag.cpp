#include "export/bag.hpp"

#include <fcntl.h>
#include <fmt/format.h>
#include <sys/file.h>
#include <unistd.h>

#include <algorithm>
#include <filesystem>
#include <iterator>
#include <nlohmann/json.hpp>
#include <system_error>
#include <unordered_map>
#include <utility>

#include "base/error.hpp"
#include "base/sha256.hpp"
#include "base/timestamp.hpp"
#include "export/output_file.hpp"

namespace fs = std::filesystem;
using nlohmann::json;

namespace undershelf {

namespace {
constexpr const char* work_name = ".unfinished";
constexpr const char* journal_name = "journal.jsonl";
/// Parts are spread over some folders, so that several threads making files do not wait for one another.
constexpr std::int64_t part_folders = 16;
constexpr const char* job_label = "Undershelf-Job: ";

std::string hash_of(const std::string& content) {
    Sha256 hash;
    hash.add({reinterpret_cast<const std::uint8_t*>(content.data()), content.size()});
    return hash.hex();
}

std::string hash_of_file(const fs::path& path) {
    std::ifstream in(path, std::ios::binary);
    Sha256 hash;
    ByteVector buffer(1 << 20);
    while (in) {
        in.read(reinterpret_cast<char*>(buffer.data()), static_cast<std::streamsize>(buffer.size()));
        hash.add(Bytes(buffer).first(static_cast<std::size_t>(in.gcount())));
    }
    return hash.hex();
}

/// The lines of a journal or of exported.jsonl: the last one of each entry, in the order of the first.
std::vector<std::pair<ExportedEntry, bool>> lines_of(std::istream& in) {
    std::vector<std::pair<ExportedEntry, bool>> out;
    std::unordered_map<std::int64_t, std::size_t> place;
    for (std::string line; std::getline(in, line);) {
        auto e = from_json_line(line);
        if (!e) continue;
        const bool synced = line.find("\"synced\":false") == std::string::npos;
        const auto [it, fresh] = place.emplace(e->id, out.size());
        if (fresh) {
            out.emplace_back(std::move(*e), synced);
        } else {
            out[it->second] = {std::move(*e), synced};
        }
    }
    return out;
}

Error cannot_write(const std::string& folder) {
    return {Trouble::input,
            fmt::format("Nothing can be written to {}; check its permissions and free space.", folder)};
}

}  // namespace

Bag::Bag(std::string folder, const std::string& job)
    : folder_(std::move(folder)), work_((fs::path(folder_) / work_name).string()), job_(job) {
    std::error_code ec;
    if (fs::exists(folder_, ec) && !fs::is_directory(folder_, ec))
        throw Error(Trouble::refused, fmt::format("{} is a file; give a folder to export to.", folder_));
    fs::create_directories(folder_, ec);
    lock();
    const auto header = nlohmann::ordered_json{{"job", job}}.dump();
    if (!fs::is_empty(folder_, ec)) load(header);
    fs::create_directories(fs::path(folder_) / "data", ec);
    for (std::int64_t i = 0; i < part_folders; ++i)
        fs::create_directories(fs::path(part_path(i)).parent_path(), ec);
    start_journal(header);
}

Bag::~Bag() {
    if (publishing_.valid()) publishing_.wait();
}

/// Two exports into one folder would write over each other's parts.
void Bag::lock() {
    folder_fd_.reset(::open(folder_.c_str(), O_RDONLY | O_DIRECTORY | O_CLOEXEC));
    if (!folder_fd_) throw cannot_write(folder_);
    if (::flock(folder_fd_.get(), LOCK_EX | LOCK_NB) != 0 && errno == EWOULDBLOCK) {
        throw Error(
            Trouble::refused,
            fmt::format("Another export is writing to {}; wait for it, or give another folder.", folder_));
    }
}

void Bag::load(const std::string& header) {
    std::error_code ec;
    if (fs::exists(fs::path(work_) / journal_name, ec)) return load_journal(header);
    if (fs::exists(fs::path(folder_) / "bagit.txt", ec) &&
        fs::exists(fs::path(folder_) / "exported.jsonl", ec))
        return reopen();
    throw Error(Trouble::refused,
                fmt::format("{} is not empty; nothing there is overwritten. Give a new folder to export to.",
                            folder_));
}

void Bag::load_journal(const std::string& header) {
    std::ifstream in(fs::path(work_) / journal_name);
    std::string line;
    std::getline(in, line);
    if (line != header) {
        throw Error(Trouble::refused, fmt::format("{} holds an interrupted export of another job; finish "
                                                  "that one with its own selection or give a new folder.",
                                                  folder_));
    }
    for (auto& [e, synced] : lines_of(in)) {
        if (e.outcome != "failed" && stands(e, synced)) before_.push_back(std::move(e));
    }
    // Parts without a line were not synced when the export was cut off.
    std::error_code ec;
    for (fs::recursive_directory_iterator it(work_, ec), end; !ec && it != end; it.increment(ec)) {
        if (it->path().extension() == ".part") fs::remove(it->path(), ec);
    }
}

/// A line counts with its file, under its name or still under its part's. What was not synced must have the
/// right content as well: the machine may have lost it.
bool Bag::stands(ExportedEntry& e, bool synced) const {
    if (!e.path_in_bag) return true;
    const auto path = fs::path(folder_) / *e.path_in_bag;
    std::error_code ec;
    if (!fs::exists(path, ec)) {
        if (!fs::is_regular_file(part_path(e.id), ec)) return false;
        try {
            rename_without_replacing(part_path(e.id), path.string());
        } catch (const std::system_error&) {
            return false;
        }
    }
    if (!fs::is_regular_file(path, ec) || fs::file_size(path, ec) != e.size) return false;
    return synced || hash_of_file(path) == e.sha256;
}

/// A finished bag is opened again for the entries that failed.
void Bag::reopen() {
    std::ifstream info(fs::path(folder_) / "bag-info.txt");
    bool same = false;
    for (std::string line; std::getline(info, line);) same |= line == job_label + job_;
    std::ifstream in(fs::path(folder_) / "exported.jsonl");
    auto lines = lines_of(in);
    const bool failed = std::any_of(lines.begin(), lines.end(),
                                    [](const auto& line) { return line.first.outcome == "failed"; });
    if (!same || !failed) {
        throw Error(
            Trouble::refused,
            same ? fmt::format(
                       "{0} holds this export, finished. Check it with `undershelf verify {0}`, or give "
                       "a new folder.",
                       folder_)
                 : fmt::format(
                       "{} is not empty; nothing there is overwritten. Give a new folder to export to.",
                       folder_));
    }
    for (auto& [e, synced] : lines) {
        if (e.outcome != "failed" && stands(e, true)) before_.push_back(std::move(e));
    }
}

/// Written anew, so that a line cut off by an interruption does not spoil the next one.
void Bag::start_journal(const std::string& header) {
    const auto path = (fs::path(work_) / journal_name).string(), fresh = path + ".new";
    std::string text = header + "\n";
    for (const auto& e : before_) text += to_json_line(e) + "\n";
    std::error_code ec;
    fs::remove(fresh, ec);
    try {
        OutputFile file(fresh);
        file.write({reinterpret_cast<const std::uint8_t*>(text.data()), text.size()});
        file.sync();
        file.close();
        file.keep();
    } catch (const std::system_error&) {
        throw cannot_write(folder_);
    }
    if (::rename(fresh.c_str(), path.c_str()) != 0) throw cannot_write(folder_);
    journal_.reset(::open(path.c_str(), O_WRONLY | O_APPEND | O_CLOEXEC));
    if (!journal_) throw cannot_write(folder_);
}

std::string Bag::part_path(std::int64_t id) const {
    return fmt::format("{}/{}/{}.part", work_, id % part_folders, id);
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
        if (::syncfs(folder_fd_.get()) != 0) throw std::system_error(errno, std::generic_category(), folder_);
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
        if (n < 0)
            throw Error(Trouble::input,
                        fmt::format("The journal of the export in {} cannot be written any more; "
                                    "free some space there and run the same command again.",
                                    folder_));
        at += static_cast<std::size_t>(n);
    }
    if (synced) ::fdatasync(journal_.get());
}

void Bag::publish(std::vector<ExportedEntry> batch, bool synced) {
    append(batch, synced);
    std::vector<ExportedEntry> failed;
    for (auto& e : batch) {
        if (!e.path_in_bag) continue;
        try {
            rename_without_replacing(part_path(e.id), (fs::path(folder_) / *e.path_in_bag).string());
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
    std::error_code ec;
    for (const auto& [name, content] : tags) {
        const auto part = (fs::path(work_) / name).string();
        fs::remove(part, ec);
        OutputFile file(part);
        file.write({reinterpret_cast<const std::uint8_t*>(content->data()), content->size()});
        file.close();
        file.keep();
    }
    ::syncfs(folder_fd_.get());
    for (const auto& [name, content] : tags) {
        if (::rename((fs::path(work_) / name).c_str(), (fs::path(folder_) / name).c_str()) != 0)
            throw std::system_error(errno, std::generic_category(), name);
    }
}

void Bag::complete(const std::string& description) {
    commit();
    wait();
    std::ifstream in(fs::path(work_) / journal_name);
    std::string manifest, exported, line;
    std::getline(in, line);
    std::uint64_t bytes = 0, files = 0;
    while (std::getline(in, line)) {
        const auto e = gist_of(line);
        // Of an entry that could not be given its name the second line counts.
        if (!e || (e->path_in_bag && nameless_.count(e->id))) continue;
        exported += line + "\n";
        if (!e->path_in_bag) continue;
        manifest += e->sha256 + "  " + *e->path_in_bag + "\n";
        bytes += e->size;
        ++files;
    }
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
    std::error_code ec;
    fs::remove_all(work_, ec);
    ::syncfs(folder_fd_.get());
}

}  // namespace undershelf
