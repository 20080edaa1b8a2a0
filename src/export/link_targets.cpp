#include "export/link_targets.hpp"

#include <algorithm>

#include "base/slash_path.hpp"
#include "base/text.hpp"

namespace undershelf {

namespace {

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
        if (!e.link || e.link->empty()) return true;
        Link link;
        link.volume = e.volume.value_or(0);
        link.origin = e.origin;
        for (const char separator : {'/', '\\'}) {
            if (separator == '\\' &&
                (e.link->find('/') != std::string::npos || e.link->find('\\') == std::string::npos))
                continue;
            if (auto path = path_led_to(e.folder_path, *e.link, separator)) {
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
    if (!e.stream.empty() || targets_.empty()) return;
    if (const auto it = links_.find(e.id); it != links_.end() && line) it->second.line = *line;
    const auto it = targets_.find(key_of(e.volume.value_or(0), e.path()));
    if (it == targets_.end()) return;
    it->second.push_back(
        {e.id, e.origin, e.path(), path_in_bag, line ? line->sha256 : "", line ? line->size : 0});
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

/// Goes from link to link, on a stack of its own: chains may be as long as there are links.
bool LinkTargets::follow(Link& first) {
    std::vector<std::pair<Link*, const Target*>> way;
    for (auto* at = &first; at->state == State::unknown;) {
        const auto* target = at->line ? target_of(*at) : nullptr;
        at->state = target ? State::being_looked_at : State::leads_nowhere;
        if (!target) break;
        way.emplace_back(at, target);
        const auto next = links_.find(target->entry);
        if (next == links_.end()) {
            at->state = State::leads;
            at->line->sha256 = target->sha256;
            at->line->size = at->line->written = target->size;
            at->line->leads_to = target->path_in_bag;
            way.pop_back();
            break;
        }
        at = &next->second;
    }
    for (; !way.empty(); way.pop_back()) {
        auto& [link, target] = way.back();
        const auto& next = links_.at(target->entry);
        // A link in a circle leads nowhere.
        link->state = next.state == State::leads ? State::leads : State::leads_nowhere;
        if (link->state != State::leads) continue;
        link->line->sha256 = next.line->sha256;
        link->line->size = link->line->written = next.line->size;
        link->line->leads_to = target->path_in_bag;
    }
    return first.state == State::leads;
}

std::vector<ExportedEntry> LinkTargets::resolved() {
    std::vector<ExportedEntry> out;
    for (auto& [id, link] : links_) {
        if (follow(link)) out.push_back(*link.line);
    }
    std::sort(out.begin(), out.end(),
              [](const ExportedEntry& a, const ExportedEntry& b) { return a.id < b.id; });
    return out;
}

}  // namespace undershelf
