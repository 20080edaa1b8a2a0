#include "export/exported_entry.hpp"

#include <algorithm>
#include <charconv>
#include <cmath>
#include <nlohmann/json.hpp>
#include <string_view>

#include "base/printable.hpp"
#include "writing/folder.hpp"

using nlohmann::json;

namespace undershelf {

namespace {
constexpr std::pair<const char*, std::string ExportedEntry::*> times[] = {
    {"created", &ExportedEntry::created},
    {"modified", &ExportedEntry::modified},
    {"accessed", &ExportedEntry::accessed},
    {"deleted", &ExportedEntry::deleted}};

nlohmann::ordered_json or_null(const std::string& text) {
    return text.empty() ? nlohmann::ordered_json(nullptr) : nlohmann::ordered_json(text);
}
}  // namespace

std::string to_json_line(const ExportedEntry& e) {
    nlohmann::ordered_json j;
    j["id"] = e.id;
    j["path"] = e.path;
    j["path_in_bag"] =
        e.path_in_bag ? nlohmann::ordered_json(*e.path_in_bag) : nlohmann::ordered_json(nullptr);
    j["first_path"] =
        e.first_path.empty() ? nlohmann::ordered_json(nullptr) : nlohmann::ordered_json(e.first_path);
    j["size"] = e.size;
    j["written"] = e.written;
    j["missing"] = json::array();
    for (const auto& m : e.missing) j["missing"].push_back({m.offset, m.length});
    j["sha256"] = e.sha256.empty() ? nlohmann::ordered_json(nullptr) : nlohmann::ordered_json(e.sha256);
    j["outcome"] = e.outcome;
    j["why"] = e.why;
    j["grade"] = or_null(e.grade);
    j["chance"] = e.grade.empty() ? nlohmann::ordered_json(nullptr)
                                  : nlohmann::ordered_json(std::round(e.chance * 10000) / 10000);
    j["checked"] = or_null(e.checked);
    j["holds"] = e.holds ? nlohmann::ordered_json(*e.holds) : nlohmann::ordered_json(nullptr);
    j["holds_to"] = e.holds_to ? nlohmann::ordered_json(*e.holds_to) : nlohmann::ordered_json(nullptr);
    for (const auto& [name, time] : times) j[name] = or_null(e.*time);
    if (!e.attributes.empty()) j["attributes"] = e.attributes;
    if (e.link) j["link"] = *e.link;
    if (!e.leads_to.empty()) j["leads_to"] = e.leads_to;
    return with_json_escapes(j.dump(-1, ' ', false, json::error_handler_t::replace));
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
        if (e.outcome == "whole") e.outcome = "complete";  // as it was called once
        const auto text = [&](const char* name) {
            return j.contains(name) && j[name].is_string() ? j[name].get<std::string>() : std::string();
        };
        e.first_path = text("first_path");
        e.grade = text("grade");
        e.checked = text("checked");
        for (const auto& [name, time] : times) e.*time = text(name);
        if (j.contains("chance") && j["chance"].is_number()) e.chance = j["chance"].get<double>();
        if (j.contains("holds") && j["holds"].is_boolean()) e.holds = j["holds"].get<bool>();
        e.why = j.value("why", "");
        if (j.contains("holds_to") && j["holds_to"].is_number_unsigned())
            e.holds_to = j["holds_to"].get<std::uint64_t>();
        if (j.contains("attributes")) e.attributes = j.at("attributes").get<std::vector<std::string>>();
        if (j.contains("link")) e.link = j.at("link").get<std::string>();
        e.leads_to = j.value("leads_to", "");
        return e;
    } catch (const json::exception&) {
        return std::nullopt;
    }
}

bool is_place_in_bag(const std::string& path) {
    const auto breaks = [](char c) { return static_cast<unsigned char>(c) < 0x20; };
    return path.starts_with("data/") && stays_below(path) && std::none_of(path.begin(), path.end(), breaks);
}

bool is_sound(const ExportedEntry& e) {
    if (!e.path_in_bag) return true;
    // A link to a folder has no checksum.
    if (!e.leads_to.empty() && e.sha256.empty())
        return is_place_in_bag(*e.path_in_bag) && is_place_in_bag(e.leads_to);
    return is_place_in_bag(*e.path_in_bag) && e.sha256.size() == 64 &&
           e.sha256.find_first_not_of("0123456789abcdef") == std::string::npos;
}

namespace {

/// The text after `key`, up to the character that ends a value of its kind; nothing when it is escaped.
std::optional<std::string_view> value_behind(std::string_view line, std::string_view key) {
    const auto at = line.find(key);
    if (at == std::string_view::npos) return std::nullopt;
    const auto from = at + key.size();
    const bool quoted = line[from - 1] == '"';
    const auto to = line.find_first_of(quoted ? "\"\\" : ",}", from);
    if (to == std::string_view::npos || line[to] == '\\') return std::nullopt;
    return line.substr(from, to - from);
}

template <class Number>
bool parse(const std::optional<std::string_view>& text, Number& out) {
    return text && std::from_chars(text->data(), text->data() + text->size(), out).ec == std::errc{};
}

}  // namespace

std::optional<LineGist> gist_of(const std::string& line) {
    LineGist out;
    // Keys are in the order of writing, so that what a path spells cannot be taken for one of them.
    const auto rest = std::string_view(line).substr(std::min(line.size(), line.find("\"path_in_bag\":")));
    const auto path = value_behind(rest, "\"path_in_bag\":\""), hash = value_behind(rest, "\"sha256\":\"");
    if (path && hash && line.find("\"path_in_bag\":") == line.rfind("\"path_in_bag\":") &&
        parse(value_behind(line, "{\"id\":"), out.id) && parse(value_behind(rest, "\"size\":"), out.size)) {
        out.path_in_bag = *path;
        out.sha256 = *hash;
        if (rest.find("\"leads_to\":\"") == std::string_view::npos) return out;
    }
    auto e = from_json_line(line);
    if (!e) return std::nullopt;
    return LineGist{e->id, e->size, std::move(e->path_in_bag), std::move(e->sha256), std::move(e->leads_to)};
}

}  // namespace undershelf
