#include "export/bag_past.hpp"

#include <fcntl.h>
#include <fmt/format.h>

#include <algorithm>
#include <charconv>
#include <nlohmann/json.hpp>
#include <unordered_map>

#include "base/command_line.hpp"
#include "base/json_text.hpp"
#include "base/printable.hpp"
#include "base/sha256.hpp"
#include "base/slash_path.hpp"
#include "export/bag_files.hpp"

using nlohmann::json;

namespace undershelf {

using namespace bag_file;

namespace {

Error not_empty(const std::string& folder) {
    return {Trouble::refused,
            fmt::format("{} is not empty; nothing there is overwritten. Give a new folder to export to.",
                        folder)};
}

Error of_another_shelf(const std::string& folder) {
    return {
        Trouble::refused,
        fmt::format("{} holds an export from another shelf. Only exports from that shelf are added to it. "
                    "Give a new folder.",
                    folder)};
}

struct Header {
    std::string job, shelf;
    std::vector<std::string> command;
};

Header header_in(const Folder& folder) {
    std::string first;
    const auto fd = folder.open(journal, O_RDONLY | O_NONBLOCK);
    LineReader(fd.get()).next(first);
    const auto j = json_in(first);
    Header out;
    if (!j.is_object()) return out;
    const auto take = [&](const char* key, std::string& to) {
        if (j.contains(key) && j[key].is_string()) to = j[key].get<std::string>();
    };
    take("job", out.job);
    take("shelf", out.shelf);
    if (!j.contains("command") || !j["command"].is_array()) return out;
    for (const auto& word : j["command"]) {
        if (word.is_string()) out.command.push_back(word.get<std::string>());
    }
    // Whoever reads this may type it: nothing but an export, and nothing that is not seen.
    const auto hides = [](const std::string& word) { return without_controls(word) != word; };
    const bool is_export = !out.command.empty() && out.command.front() == "export";
    if (!is_export || std::any_of(out.command.begin(), out.command.end(), hides)) out.command.clear();
    return out;
}

/// Bags of earlier versions name the source alone.
bool names_source(const std::string& job, const SourceRecord& source) {
    const auto j = json_in(job);
    return j.is_object() && j.value("source", json()) == source.path &&
           j.value("bytes", json()) == source.size;
}

std::string checksum_of(const Folder& folder, const std::string& path) {
    if (!folder.is_file(path)) return {};
    const auto fd = folder.open(path, O_RDONLY | O_NONBLOCK);
    return sha256_of_file(fd.get());
}

}  // namespace

std::string journal_header(const BagOwner& owner, unsigned round) {
    std::string out = "{\"job\":";
    append_json_text(out, owner.job);
    out += ",\"shelf\":";
    append_json_text(out, owner.shelf);
    out += fmt::format(",\"round\":{},\"command\":[", round);
    for (std::size_t i = 0; i < owner.command.size(); ++i) {
        if (i) out += ',';
        append_json_text(out, owner.command[i]);
    }
    return out += "]}";
}

BagPast::BagPast(const Folder& folder, const BagOwner& owner) : folder_(folder) {
    if (const auto there = folder_.status(work); there && !S_ISDIR(there->st_mode))
        throw Error(
            Trouble::refused,
            fmt::format("{}/{} is not a folder of an export. It is not followed. Give a new folder to "
                        "export to.",
                        folder_.path(), work));
    info_ = read_bag_info(folder_, place_of_tag(folder_, info_name));
    const bool is_bag = info_.ours() && folder_.is_file(place_of_tag(folder_, declaration_name)) &&
                        folder_.is_file(place_of_tag(folder_, exported_name));
    const bool committed = folder_.status(new_tags).has_value();
    if (is_bag) {
        check_owner(owner);
        check_tags();
        state_ = BagState::finished;
    } else {
        info_ = {};
    }
    if (!committed && folder_.is_file(journal)) {
        check_journal(owner);
        state_ = BagState::unfinished;
    } else if (!is_bag && !is_untouched()) {
        throw not_empty(folder_.path());
    }
    info_.shelf = owner.shelf;
}

/// Is nothing in it but what an export makes before it writes anything?
bool BagPast::is_untouched() const {
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

void BagPast::check_owner(const BagOwner& owner) const {
    const bool same = info_.shelf.empty() ? names_source(info_.rounds.front().job, owner.source)
                                          : info_.shelf == owner.shelf;
    if (!same) throw of_another_shelf(folder_.path());
}

void BagPast::check_journal(const BagOwner& owner) const {
    const auto header = header_in(folder_);
    // Earlier versions did not say from which shelf.
    if (!header.shelf.empty() && header.shelf != owner.shelf) throw of_another_shelf(folder_.path());
    if (header.job != owner.job)
        throw Error(
            Trouble::refused,
            fmt::format(
                "{} holds an interrupted export of another job. Finish that one first, or give "
                "a new folder.{}",
                folder_.path(),
                header.command.empty() ? "" : " Its command: undershelf " + command_line(header.command)));
}

void BagPast::check_tags() const {
    std::unordered_map<std::string, std::string> known;
    each_line(folder_, place_of_tag(folder_, tag_manifest_name), [&](const std::string& line) {
        const auto blank = line.find(' ');
        const auto path = blank == std::string::npos ? blank : line.find_first_not_of(" *", blank);
        if (path != std::string::npos) known[line.substr(path)] = line.substr(0, blank);
    });
    // What people add to bag-info.txt is kept.
    for (const char* name : {declaration_name, manifest_name, exported_name}) {
        const auto it = known.find(name);
        if (it == known.end() || it->second != checksum_of(folder_, place_of_tag(folder_, name)))
            throw Error(Trouble::refused,
                        fmt::format("{0}/{1} is not as it was written. Nothing is added to this bag, as that "
                                    "would hide it. Give a new folder; `undershelf verify {0}` says more.",
                                    folder_.path(), name));
    }
    folder_.each("", [&](const std::string& name, const struct stat&) {
        if (name.starts_with("manifest-") && name.ends_with(".txt") && name != manifest_name)
            throw Error(
                Trouble::refused,
                fmt::format("{0}/{1} was added to this bag by somebody else. Files that are added now "
                            "would be missing in it. Give a new folder, or take {1} out.",
                            folder_.path(), name));
        return true;
    });
}

void BagPast::each_finished(const Visit& visit) const {
    if (info_.rounds.empty()) return;
    each_line(folder_, place_of_tag(folder_, exported_name), [&](const std::string& line) {
        auto gist = gist_of(line);
        if (gist && is_sound(*gist)) visit(line, std::move(*gist));
    });
}

std::optional<UnfinishedRound> unfinished_round_in(const Folder& bag) {
    if (!bag.is_file(journal) || bag.status(new_tags)) return std::nullopt;
    UnfinishedRound out;
    out.command = header_in(bag).command;
    std::unordered_map<std::int64_t, LineGist> lines;
    each_line(bag, journal, [&](const std::string& line) {
        auto gist = gist_of(line);
        if (gist && is_sound(*gist)) lines.insert_or_assign(gist->id, std::move(*gist));
    });
    bag.each(work, [&](const std::string& inner, const struct stat& status) {
        if (!S_ISDIR(status.st_mode)) return true;
        bag.each(work + "/" + inner, [&](const std::string& name, const struct stat&) {
            std::int64_t id = 0;
            const auto [end, ec] = std::from_chars(name.data(), name.data() + name.size(), id);
            if (ec == std::errc{} && std::string_view(end) == ".part" && !lines.count(id))
                out.parts.push_back(id);
            return true;
        });
        return true;
    });
    for (auto& [id, line] : lines) {
        if (line.path_in_bag) out.lines.push_back(std::move(line));
    }
    std::sort(out.lines.begin(), out.lines.end(),
              [](const LineGist& a, const LineGist& b) { return *a.path_in_bag < *b.path_in_bag; });
    return out;
}

std::vector<std::pair<ExportedEntry, bool>> BagPast::unfinished() const {
    std::vector<std::pair<ExportedEntry, bool>> out;
    if (state_ != BagState::unfinished) return out;
    std::unordered_map<std::int64_t, std::size_t> place;
    each_line(folder_, journal, [&](const std::string& line) {
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

bool BagPast::is_there(const LineGist& line) const {
    try {
        if (!line.leads_to.empty())
            return folder_.link_target(*line.path_in_bag) ==
                   relative_path(folder_in(*line.path_in_bag), line.leads_to);
        const auto there = folder_.status(*line.path_in_bag);
        return there && S_ISREG(there->st_mode) && static_cast<std::uint64_t>(there->st_size) == line.size;
    } catch (const std::system_error&) {
        return false;
    }
}

}  // namespace undershelf
