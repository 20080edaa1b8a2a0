#include "export/bag.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <filesystem>
#include <nlohmann/json.hpp>

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

std::string hash_of(const std::string& content) {
    Sha256 hash;
    hash.add({reinterpret_cast<const std::uint8_t*>(content.data()), content.size()});
    return hash.hex();
}
}  // namespace

std::string to_json_line(const ExportedEntry& e) {
    nlohmann::ordered_json j;
    j["id"] = e.id;
    j["path"] = e.path;
    j["path_in_bag"] =
        e.path_in_bag ? nlohmann::ordered_json(*e.path_in_bag) : nlohmann::ordered_json(nullptr);
    j["size"] = e.size;
    j["written"] = e.written;
    j["missing"] = json::array();
    for (const auto& m : e.missing) j["missing"].push_back({m.offset, m.length});
    j["sha256"] = e.sha256.empty() ? nlohmann::ordered_json(nullptr) : nlohmann::ordered_json(e.sha256);
    j["outcome"] = e.outcome;
    j["why"] = e.why;
    if (!e.attributes.empty()) j["attributes"] = e.attributes;
    return j.dump(-1, ' ', false, json::error_handler_t::replace);
}

std::optional<ExportedEntry> from_json_line(const std::string& line) {
    const auto j = json::parse(line, nullptr, false);
    if (!j.is_object() || !j.contains("outcome") || !j.contains("id")) return std::nullopt;
    try {
        ExportedEntry e;
        e.id = j.at("id").get<std::int64_t>();
        e.path = j.value("path", "");
        if (j.at("path_in_bag").is_string()) e.path_in_bag = j.at("path_in_bag").get<std::string>();
        e.size = j.at("size").get<std::uint64_t>();
        e.written = j.at("written").get<std::uint64_t>();
        for (const auto& m : j.at("missing"))
            e.missing.push_back({m.at(0).get<std::uint64_t>(), m.at(1).get<std::uint64_t>()});
        if (j.at("sha256").is_string()) e.sha256 = j.at("sha256").get<std::string>();
        e.outcome = j.at("outcome").get<std::string>();
        e.why = j.value("why", "");
        if (j.contains("attributes")) e.attributes = j.at("attributes").get<std::vector<std::string>>();
        return e;
    } catch (const json::exception&) {
        return std::nullopt;
    }
}

Bag::Bag(std::string folder, const std::string& purpose)
    : folder_(std::move(folder)), work_((fs::path(folder_) / work_name).string()) {
    const auto header = nlohmann::ordered_json{{"purpose", purpose}}.dump();
    const auto journal = (fs::path(work_) / journal_name).string();
    std::error_code ec;
    if (fs::exists(folder_) && !fs::is_directory(folder_))
        throw Error(Trouble::refused, fmt::format("{} is a file; give a folder to export to.", folder_));
    if (fs::is_directory(folder_) && !fs::is_empty(folder_)) {
        std::ifstream in(journal);
        std::string line;
        if (!in || !std::getline(in, line)) {
            throw Error(
                Trouble::refused,
                fmt::format("{} is not empty; nothing there is overwritten. Give a new folder to export to.",
                            folder_));
        }
        if (line != header) {
            throw Error(Trouble::refused, fmt::format("{} holds an interrupted export of another job; finish "
                                                      "that one with its own selection or give a new folder.",
                                                      folder_));
        }
        while (std::getline(in, line)) {
            auto e = from_json_line(line);
            if (!e) continue;
            const auto path = e->path_in_bag ? fs::path(folder_) / *e->path_in_bag : fs::path();
            // A line counts only with its file: the machine may have lost what was not on the disk yet.
            if (e->path_in_bag && (!fs::is_regular_file(path, ec) || fs::file_size(path, ec) != e->size))
                continue;
            if (e->outcome != "failed") before_.push_back(std::move(*e));
        }
    }
    fs::create_directories(fs::path(folder_) / "data", ec);
    fs::create_directories(work_, ec);
    // Written anew, so that a line cut off by the interruption does not spoil the next one.
    journal_.open(journal, std::ios::trunc);
    journal_ << header << '\n';
    for (const auto& e : before_) journal_ << to_json_line(e) << '\n';
    journal_.flush();
    if (!journal_)
        throw Error(
            Trouble::input,
            fmt::format("Nothing can be written to {}; check its permissions and free space.", folder_));
}

std::string Bag::temporary_path() const {
    return (fs::path(work_) / "file.part").string();
}

void Bag::add(const ExportedEntry& entry) {
    journal_ << to_json_line(entry) << '\n';
    journal_.flush();
    if (!journal_)
        throw Error(Trouble::input, fmt::format("The journal of the export in {} cannot be written any more; "
                                                "free some space there and run the same command again.",
                                                folder_));
}

void Bag::complete(const std::string& description) {
    journal_.close();
    std::ifstream in(fs::path(work_) / journal_name);
    std::string line, manifest, exported;
    std::getline(in, line);
    std::uint64_t bytes = 0, files = 0;
    while (std::getline(in, line)) {
        const auto e = from_json_line(line);
        if (!e) continue;
        exported += line + "\n";
        if (!e->path_in_bag) continue;
        manifest += e->sha256 + "  " + *e->path_in_bag + "\n";
        bytes += e->size;
        ++files;
    }
    const auto today = iso8601(now_utc()).substr(0, 10);
    const std::string bagit = "BagIt-Version: 1.0\nTag-File-Character-Encoding: UTF-8\n";
    const auto info = fmt::format(
        "Bagging-Date: {}\nBag-Software-Agent: undershelf\nPayload-Oxum: {}.{}\nExternal-Description: {}\n",
        today, bytes, files, description);
    const auto write = [&](const char* name, const std::string& content) {
        const auto path = (fs::path(folder_) / name).string();
        if (!fs::exists(path)) write_small_file(path, content);
    };
    write("manifest-sha256.txt", manifest);
    write("exported.jsonl", exported);
    write("bag-info.txt", info);
    std::string tags;
    for (const auto& [name, content] : {std::pair{"bag-info.txt", &info},
                                        {"exported.jsonl", &exported},
                                        {"manifest-sha256.txt", &manifest}}) {
        tags += hash_of(*content) + "  " + name + "\n";
    }
    tags += hash_of(bagit) + "  bagit.txt\n";
    write("tagmanifest-sha256.txt", tags);
    write("bagit.txt", bagit);
    std::error_code ec;
    fs::remove_all(work_, ec);
}

}  // namespace undershelf
