#include "answers/entry_named.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <charconv>
#include <optional>

#include "answers/steps.hpp"
#include "base/amounts.hpp"
#include "base/error.hpp"
#include "base/printable.hpp"
#include "base/text.hpp"
#include "volume/words.hpp"

namespace undershelf {

namespace {

/// Nobody reads more than a few.
constexpr std::size_t most_told = 5;

std::optional<std::int64_t> number_in(const std::string& text) {
    std::int64_t out = 0;
    const auto [end, ec] = std::from_chars(text.data(), text.data() + text.size(), out);
    if (ec != std::errc{} || end != text.data() + text.size()) return std::nullopt;
    return out;
}

ShelfEntry entry_numbered(const Shelf& shelf, std::int64_t number) {
    if (auto out = shelf.entry(number)) return *out;
    if (const auto aside = shelf.set_aside(number)) {
        throw Error(
            Trouble::usage,
            aside->merged_into
                ? fmt::format("Entry {} is now {} (former volume). Use that number.", number,
                              *aside->merged_into)
                : fmt::format("Entry {} no longer exists: a later scan found no evidence for it.", number));
    }
    throw Error(Trouble::usage,
                fmt::format("The shelf {} has no entry {}; `{}` shows what it has.", shelf.path(), number,
                            command_line({"undershelf", "list", shelf.path()})));
}

/// Entries at a path, and those that were there before.
struct AtPath {
    std::vector<ShelfEntry> now, before;
};

AtPath entries_at(const Shelf& shelf, const std::string& path, const std::string& stream) {
    AtPath out;
    Selection there;
    there.names = {"=/" + path};
    const auto wanted = folded(path);
    shelf.for_each(there, {}, [&](const ShelfEntry& e) {
        if (folded(e.stream) != folded(stream)) return true;
        const bool now = folded(e.shown_path()) == wanted || folded(e.path()) == wanted;
        auto& list = now ? out.now : out.before;
        list.push_back(e);
        return true;
    });
    return out;
}

std::vector<ShelfEntry> entries_called(const Shelf& shelf, std::string path) {
    while (path.starts_with('/')) path.erase(0, 1);
    while (path.ends_with('/')) path.pop_back();
    if (path.empty()) return {};
    const auto whole = entries_at(shelf, path, "");
    if (!whole.now.empty()) return whole.now;
    const auto colon = path.rfind(':');
    if (colon != path.npos && colon > 0) {
        const auto stream = entries_at(shelf, path.substr(0, colon), path.substr(colon + 1));
        if (!stream.now.empty()) return stream.now;
    }
    return whole.before;
}

[[noreturn]] void several(const std::vector<ShelfEntry>& found, const std::string& text) {
    std::vector<std::string> told;
    for (const auto& e : found) {
        if (told.size() == most_told) {
            told.emplace_back("...");
            break;
        }
        told.push_back(fmt::format("{} ({}{}{})", e.id, word(e.origin),
                                   e.rating.grade == Grade::none ? "" : ", ", word(e.rating.grade)));
    }
    throw Error(Trouble::usage, fmt::format("{} at `{}`: {}. Give the number of one.",
                                            counted(found.size(), "entry is", "entries are"),
                                            without_controls(text), fmt::join(told, ", ")));
}

}  // namespace

ShelfEntry entry_from(const Shelf& shelf, const std::string& text) {
    if (const auto number = number_in(text)) return entry_numbered(shelf, *number);
    const auto found = entries_called(shelf, text);
    if (found.empty())
        throw Error(
            Trouble::usage,
            fmt::format(
                "The shelf {} has no entry `{}`. Give a number, or a path as lists show it: {}", shelf.path(),
                without_controls(text),
                command_line({"undershelf", "list", shelf.path(), "--name", std::string(name_in(text))})));
    if (found.size() > 1) several(found, text);
    return found.front();
}

}  // namespace undershelf
