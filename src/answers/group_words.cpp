#include "answers/group_words.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <nlohmann/json.hpp>

#include "answers/counts.hpp"
#include "answers/fields.hpp"
#include "answers/steps.hpp"
#include "base/error.hpp"
#include "base/json_text.hpp"
#include "base/nearest.hpp"
#include "base/printable.hpp"
#include "volume/words.hpp"

namespace undershelf {

namespace {

constexpr std::string_view words[] = {"kind",   "ext",   "format", "folder", "volume",
                                      "origin", "grade", "year",   "month"};

/// Where there is more than one, a path alone does not say which volume it is on.
bool has_several_volumes(const Shelf& shelf) {
    return shelf.volumes().size() > 1;
}

using Options = std::vector<std::string>;

Options opens_folder(const ShelfGroup& g, bool several) {
    Options out{g.deep ? "--under" : "--in", g.text.empty() ? "/" : g.text};
    if (several) out.insert(out.end(), {"--volume", std::to_string(g.number)});
    return out;
}

/// Extensions have no commas in an option.
Options opens_ext(const ShelfGroup& g) {
    if (g.text.find(',') != std::string::npos) return {"--name", "*." + g.text};
    return {"--ext", g.absent ? "." : g.text};
}

std::string year_or_month(const ShelfGroup& g, GroupBy by) {
    if (g.absent) return "none";
    return by == GroupBy::year ? fmt::format("{:04}", g.number)
                               : fmt::format("{:04}-{:02}", g.number / 100, g.number % 100);
}

Group shown(ShelfGroup&& g, GroupBy by, bool several) {
    const auto named = [&](std::string name, Options opens) {
        return Group{std::move(name), std::move(g), std::move(opens)};
    };
    const auto worded = [&](const char* option, std::string_view name) {
        return named(std::string(name), {option, std::string(name)});
    };
    switch (by) {
        case GroupBy::kind:
            return worded("--kind", word(static_cast<Kind>(g.number)));
        case GroupBy::origin:
            return worded("--origin", word(static_cast<Origin>(g.number)));
        case GroupBy::grade:
            return g.number == 0 ? named("not rated yet", {"--unrated"})
                                 : worded("--grade", word(static_cast<Grade>(g.number)));
        case GroupBy::format:
            return worded("--content", g.absent ? "none" : std::string(g.text));
        case GroupBy::ext: {
            auto opens = opens_ext(g);
            return named(g.absent ? "none" : g.text, std::move(opens));
        }
        case GroupBy::folder: {
            auto opens = opens_folder(g, several);
            return named((several ? fmt::format("{}: ", g.number) : "") + g.text + "/", std::move(opens));
        }
        case GroupBy::volume: {
            const auto number = std::to_string(g.number);
            return named(g.number ? "volume " + number : "in no volume", {"--volume", number});
        }
        case GroupBy::year:
        case GroupBy::month: {
            auto name = year_or_month(g, by);
            return named(name, {"--modified", name});
        }
    }
    return named({}, {});
}

bool in_order_of_number(GroupBy by) {
    return by == GroupBy::folder || by == GroupBy::volume || by == GroupBy::year || by == GroupBy::month;
}

}  // namespace

GroupBy group_by_from(const std::string& text) {
    const auto* const it = std::find(std::begin(words), std::end(words), text);
    if (it == std::end(words))
        throw Error(Trouble::usage, fmt::format("There is no group `{}`.{} --group takes {}.", text,
                                                did_you_mean(text, {std::begin(words), std::end(words)}),
                                                fmt::join(words, ", ")));
    return static_cast<GroupBy>(it - std::begin(words));
}

std::string_view word(GroupBy by) {
    return words[static_cast<std::size_t>(by)];
}

std::string group_name_of(const ShelfEntry& entry, GroupBy by, bool several) {
    ShelfGroup g;
    const auto text = [&](const std::string& t) {
        g.text = t;
        g.absent = t.empty();
    };
    switch (by) {
        case GroupBy::kind:
            g.number = static_cast<std::int64_t>(entry.kind);
            break;
        case GroupBy::origin:
            g.number = static_cast<std::int64_t>(entry.origin);
            break;
        case GroupBy::grade:
            g.number = entry.rated == Rated::yes ? static_cast<std::int64_t>(entry.rating.grade) : 0;
            break;
        case GroupBy::format:
            text(entry.format);
            break;
        case GroupBy::ext:
            text(entry.ext);
            break;
        case GroupBy::folder:
            g.text = entry.shown_folder();
            g.number = entry.volume.value_or(0);
            break;
        case GroupBy::volume:
            g.number = entry.volume.value_or(0);
            break;
        case GroupBy::year:
        case GroupBy::month:
            g.absent = !entry.modified;
            if (entry.modified) g.number = date_number(*entry.modified, by);
            break;
    }
    return shown(std::move(g), by, several).name;
}

std::vector<Group> groups_to_show(const Shelf& shelf, const Selection& selection, GroupBy by,
                                  std::optional<unsigned> depth) {
    const bool several = has_several_volumes(shelf);
    std::vector<Group> out;
    for (auto& g : groups_of(shelf, selection, by, depth)) out.push_back(shown(std::move(g), by, several));
    if (by == GroupBy::grade)
        std::reverse(out.begin(), out.end());
    else if (!in_order_of_number(by))
        std::stable_sort(out.begin(), out.end(),
                         [](const Group& a, const Group& b) { return a.counts.bytes > b.counts.bytes; });
    return out;
}

void append_group_csv_heading(std::string& out) {
    out += "group,name,files,bytes";
    for (const auto g : shown_grades) out += fmt::format(",{}", word(g));
    out += ",not_rated,selection\n";
}

void append_group_csv(std::string& out, const Group& group, GroupBy by) {
    const auto& c = group.counts;
    out += fmt::format("{},", word(by));
    append_csv_text(out, group.name);
    out += fmt::format(",{},{}", c.files, c.bytes);
    for (const auto g : shown_grades) out += fmt::format(",{}", c.by_grade[static_cast<std::size_t>(g)]);
    out += fmt::format(",{},", c.by_grade[0]);
    append_csv_text(out, command_line(group.opens));
    out += '\n';
}

void append_group_json(std::string& out, const Group& group, GroupBy by) {
    const auto& c = group.counts;
    nlohmann::ordered_json j{
        {"group", word(by)}, {"name", group.name}, {"files", c.files}, {"bytes", c.bytes}};
    for (const auto g : shown_grades)
        j["grades"][std::string(word(g))] = c.by_grade[static_cast<std::size_t>(g)];
    j["not_rated"] = c.by_grade[0];
    j["selection"] = group.opens;
    out += with_json_escapes(json_text(j));
    out += '\n';
}

}  // namespace undershelf
