#include "export/link_targets.hpp"

#include <algorithm>

#include "base/slash_path.hpp"
#include "base/text.hpp"

namespace undershelf {

namespace {

/// Systems open no path that goes through more (path_resolution(7)).
constexpr int most_links_in_a_row = 40;

bool is_drive(std::string_view name) {
    return name.size() == 2 && name[1] == ':';
}

}  // namespace

std::optional<std::string> path_led_to(std::string_view folder, std::string_view target, char separator) {
    std::string out(folder);
    bool first = true;
    for (std::size_t at = 0; at <= target.size();) {
        const auto end = std::min(target.find(separator, at), target.size());
        const auto name = target.substr(at, end - at);
        if (first && (name.empty() || is_drive(name))) {
            out.clear();
        } else if (name == "..") {
            if (out.empty()) return std::nullopt;
            out.resize(folder_in(out).size());
        } else if (!name.empty() && name != ".") {
            if (!out.empty()) out += '/';
            out += name;
        }
        first = false;
        at = end + 1;
    }
    return out;
}

LinkTargets::LinkTargets(const Shelf& shelf, Selection selection) {
    const bool may_have_links =
        selection.kinds.empty() ||
        std::find(selection.kinds.begin(), selection.kinds.end(), Kind::link) != selection.kinds.end();
    if (!may_have_links) return;
    selection.kinds = {Kind::link};
    shelf.for_each(selection, {}, [this](const ShelfEntry& e) {
        const auto target = e.target();
        if (target.empty()) return true;
        Link link;
        link.volume = e.volume.value_or(0);
        link.origin = e.origin;
        for (const char separator : {'/', '\\'}) {
            // Names of other systems may have it; between names it is where there is no slash.
            if (separator == '\\' && (target.find('/') != target.npos || target.find('\\') == target.npos))
                continue;
            if (auto path = path_led_to(e.folder_path, target, separator)) {
                targets_[key_of(link.volume, *path)];
                link.paths.push_back(std::move(*path));
            }
        }
        links_.emplace(e.id, std::move(link));
        return true;
    });
}

/// Most volumes do not tell capitals apart.
std::string LinkTargets::key_of(int volume, std::string_view path) {
    return std::to_string(volume) + '/' + folded(path);
}

void LinkTargets::has_place(const ShelfEntry& e, const std::string& path_in_bag, const ExportedEntry* line) {
    if (const auto it = links_.find(e.id); it != links_.end() && line) it->second.line = *line;
    add_target(e, path_in_bag, line);
}

void LinkTargets::was_there(const ShelfEntry& e, const std::string& path_in_bag, const ExportedEntry& line) {
    add_target(e, path_in_bag, &line);
}

void LinkTargets::add_target(const ShelfEntry& e, const std::string& path_in_bag, const ExportedEntry* line) {
    if (!e.stream.empty() || targets_.empty()) return;
    const auto it = targets_.find(key_of(e.volume.value_or(0), e.path()));
    if (it == targets_.end()) return;
    it->second.push_back({e.id, e.origin, e.path(), path_in_bag, line ? std::optional(*line) : std::nullopt});
}

void LinkTargets::has_none(std::int64_t entry) {
    placeless_.insert(entry);
    links_.erase(entry);
}

const LinkTargets::Target* LinkTargets::target_of(const Link& link) const {
    for (const auto& path : link.paths) {
        const auto it = targets_.find(key_of(link.volume, path));
        if (it == targets_.end()) continue;
        const auto fit = [&](const Target& t) { return (t.path == path) * 2 + (t.origin == link.origin); };
        const Target* best = nullptr;
        for (const auto& t : it->second) {
            if (!placeless_.count(t.entry) && (!best || fit(t) > fit(*best))) best = &t;
        }
        if (best) return best;
    }
    return nullptr;
}

std::optional<LinkTargets::Resolved> LinkTargets::follow(const Link& first) const {
    const Target* led_to = target_of(first);
    const Target* end = led_to;
    for (int links = 1; end; ++links) {
        const auto next = links_.find(end->entry);
        if (next == links_.end()) break;
        if (links == most_links_in_a_row) return std::nullopt;
        end = target_of(next->second);
    }
    if (!end) return std::nullopt;
    Resolved out{*first.line, *first.line};
    auto& line = out.as_link;
    line.leads_to = led_to->path_in_bag;
    if (!end->line) {
        line.sha256.clear();
        line.size = line.written = 0;
        line.missing.clear();
        return out;
    }
    // Who opens it reads what it leads to, with all that is missing there.
    line.sha256 = end->line->sha256;
    line.size = end->line->size;
    line.written = end->line->written;
    line.missing = end->line->missing;
    line.outcome = end->line->outcome;
    line.why = end->line->why;
    return out;
}

std::vector<LinkTargets::Resolved> LinkTargets::resolved() const {
    std::vector<Resolved> out;
    for (const auto& [id, link] : links_) {
        if (!link.line) continue;
        if (auto led = follow(link)) out.push_back(std::move(*led));
    }
    std::sort(out.begin(), out.end(),
              [](const Resolved& a, const Resolved& b) { return a.as_link.id < b.as_link.id; });
    return out;
}

}  // namespace undershelf
