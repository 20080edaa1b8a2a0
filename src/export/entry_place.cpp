#include "export/entry_place.hpp"

#include <fmt/format.h>

#include "base/timestamp.hpp"
#include "content/formats.hpp"
#include "volume/words.hpp"

namespace undershelf {

std::string top_folder(const ShelfEntry& e, bool several_volumes) {
    switch (e.origin) {
        case Origin::live:
        case Origin::deleted: {
            std::string out(word(e.origin));
            return several_volumes && e.volume ? fmt::format("{}/volume-{}", out, *e.volume) : out;
        }
        case Origin::former:
            return fmt::format("former-{}", e.volume.value_or(0));
        case Origin::unnamed:
            break;  // their paths say so
    }
    return "unnamed";
}

std::string kind_folder(const ShelfEntry& e) {
    return std::string(word(e.kind));
}

std::string month_folder(const ShelfEntry& e) {
    constexpr std::size_t month = 7;  // characters of an ISO date
    return e.modified ? iso8601(*e.modified).substr(0, month) : "undated";
}

std::string file_name(const ShelfEntry& e, bool newer_than_bag) {
    auto name = e.shown_name();
    if (newer_than_bag) {
        const auto dot = name.rfind('.');
        name.insert(dot == std::string::npos || dot == 0 ? name.size() : dot,
                    fmt::format("~r{}", e.revision));
    }
    if (e.stream == resource_fork_stream) return "._" + name;
    return e.stream.empty() ? name : name + "~" + e.stream;
}

ExportedEntry line_of(const ShelfEntry& e) {
    ExportedEntry line;
    line.id = e.id;
    line.revision = e.revision;
    line.path = e.stream.empty() ? e.path() : e.path() + ":" + e.stream;
    if (e.link) line.link = e.target();
    line.first_path = e.first_path;
    line.size = e.size;
    line.attributes = attribute_words(e.attributes & ~attribute::archive);
    line.grade = word(e.rating.grade);
    line.chance = e.rating.chance;
    if (e.checked && *e.checked) line.checked = word(static_cast<Strength>(*e.checked));
    line.holds = e.complete;
    line.holds_to = e.holds_to;
    const auto time = [](const MaybeTime& t) { return t ? iso8601(*t) : std::string(); };
    line.created = time(e.created);
    line.modified = time(e.modified);
    line.accessed = time(e.accessed);
    line.deleted = time(e.deleted);
    return line;
}

}  // namespace undershelf
