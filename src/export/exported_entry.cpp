#include "export/exported_entry.hpp"

#include <algorithm>
#include <nlohmann/json.hpp>
#include <string_view>
#include <utility>

#include "base/json_line.hpp"
#include "base/json_text.hpp"
#include "writing/folder.hpp"

using nlohmann::json;

namespace undershelf {

namespace {
constexpr std::pair<const char*, std::string ExportedEntry::*> times[] = {
    {"created", &ExportedEntry::created},
    {"modified", &ExportedEntry::modified},
    {"accessed", &ExportedEntry::accessed},
    {"deleted", &ExportedEntry::deleted}};
}  // namespace

std::string to_json_line(const ExportedEntry& e) {
    JsonLine w;
    w.id("id", e.id);
    w.number("revision", static_cast<std::uint64_t>(e.revision));
    w.number("round", e.round);
    w.text("path", e.path);
    e.path_in_bag ? w.text("path_in_bag", *e.path_in_bag) : w.null("path_in_bag");
    w.text_or_null("first_path", e.first_path);
    w.number("size", e.size);
    w.number("written", e.written);
    w.list("missing", e.missing, [&](const ByteRange& r) { w.value(r); });
    w.text_or_null("sha256", e.sha256);
    w.text("outcome", e.outcome);
    w.text("why", e.why);
    w.text_or_null("grade", e.grade);
    e.grade.empty() ? w.null("chance") : w.share("chance", e.chance);
    w.text_or_null("checked", e.checked);
    e.holds ? w.flag("holds", *e.holds) : w.null("holds");
    e.holds_to ? w.number("holds_to", *e.holds_to) : w.null("holds_to");
    for (const auto& [name, time] : times) w.text_or_null(name, e.*time);
    if (!e.attributes.empty()) w.list("attributes", e.attributes, [&](const std::string& a) { w.value(a); });
    if (e.link) w.text("link", *e.link);
    if (!e.leads_to.empty()) w.text("leads_to", e.leads_to);
    return std::move(w).take();
}

std::optional<ExportedEntry> from_json_line(const std::string& line) {
    const auto j = json_in(line);
    if (!j.is_object() || !j.contains("outcome") || !j.contains("id")) return std::nullopt;
    try {
        ExportedEntry e;
        e.id = j.at("id").get<std::int64_t>();
        e.revision = j.value("revision", 0);
        e.round = j.value("round", 1u);
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

namespace {
bool is_sha256(const std::string& text) {
    return text.size() == 64 && text.find_first_not_of("0123456789abcdef") == std::string::npos;
}

bool is_sound(const std::optional<std::string>& path_in_bag, const std::string& leads_to,
              const std::string& sha256) {
    if (!path_in_bag) return true;
    if (!is_place_in_bag(*path_in_bag) || !(leads_to.empty() || is_place_in_bag(leads_to))) return false;
    // A link to a folder has no checksum.
    return is_sha256(sha256) || (!leads_to.empty() && sha256.empty());
}

/// Takes a line apart from its start, in the order in which to_json_line() writes it, as long as nothing in
/// it is escaped.
class GistReader {
  public:
    explicit GistReader(std::string_view line) : rest_(line) {}

    bool skip(std::string_view expected) {
        if (!rest_.starts_with(expected)) return false;
        rest_.remove_prefix(expected.size());
        return true;
    }
    template <class Number>
    bool number(std::string_view key, Number& out) {
        if (!skip(key)) return false;
        const auto [end, ec] = std::from_chars(rest_.data(), rest_.data() + rest_.size(), out);
        rest_.remove_prefix(static_cast<std::size_t>(end - rest_.data()));
        return ec == std::errc{};
    }
    /// `out` stays as it is for null.
    bool text(std::string_view key, std::string& out) {
        if (!skip(key)) return false;
        if (skip("null")) return true;
        if (!skip("\"")) return false;
        const auto end = rest_.find_first_of("\"\\");
        if (end == std::string_view::npos || rest_[end] != '"') return false;
        out = rest_.substr(0, end);
        rest_.remove_prefix(end + 1);
        return true;
    }
    /// To the next place of `key`, where only numbers come before it.
    bool to(std::string_view key) {
        const auto end = rest_.find('"');
        if (end == std::string_view::npos || end == 0) return false;
        rest_.remove_prefix(end - 1);
        return rest_.starts_with(key);
    }
    bool has(std::string_view text) const { return rest_.find(text) != std::string_view::npos; }

  private:
    std::string_view rest_;
};
}  // namespace

bool is_sound(const ExportedEntry& e) {
    return is_sound(e.path_in_bag, e.leads_to, e.sha256);
}
bool is_sound(const LineGist& line) {
    return is_sound(line.path_in_bag, line.leads_to, line.sha256);
}

std::optional<LineGist> gist_of(const std::string& line) {
    // All of its lines begin so; the header of a journal does not.
    if (!line.starts_with("{\"id\":")) return std::nullopt;
    LineGist out;
    GistReader in(line);
    std::string place;
    unsigned round = 0;
    std::uint64_t written = 0;
    const bool as_written =
        line.ends_with('}') && in.number("{\"id\":", out.id) && in.number(",\"revision\":", out.revision) &&
        in.number(",\"round\":", round) && in.text(",\"path\":", out.path) &&
        in.text(",\"path_in_bag\":", place) && in.text(",\"first_path\":", out.first_path) &&
        in.number(",\"size\":", out.size) && in.number(",\"written\":", written) &&
        in.skip(",\"missing\":") && in.to(",\"sha256\":") && in.text(",\"sha256\":", out.sha256) &&
        in.text(",\"outcome\":", out.outcome) && !in.has("\"leads_to\":");
    if (as_written) {
        if (!place.empty()) out.path_in_bag = std::move(place);
        return out;
    }
    auto e = from_json_line(line);
    if (!e) return std::nullopt;
    return LineGist{e->id,
                    e->revision,
                    e->size,
                    std::move(e->path),
                    std::move(e->first_path),
                    std::move(e->path_in_bag),
                    std::move(e->sha256),
                    std::move(e->outcome),
                    std::move(e->leads_to)};
}

}  // namespace undershelf
