#include "content/kinds.hpp"

#include <algorithm>
#include <array>
#include <string>
#include <unordered_map>

#include "content/formats.hpp"
#include "content/word_list.hpp"

namespace undershelf {

namespace {
constexpr std::array<std::string_view, 11> words{"other",    "picture", "video",   "audio",
                                                 "document", "mail",    "archive", "database",
                                                 "program",  "text",    "link"};

/// Extensions of formats that are not known here.
constexpr OtherKind unknown_formats[] = {
    {Kind::picture, "raw xcf jp2"},
    {Kind::video, "flv"},
    {Kind::audio, "aac"},
    {Kind::document, "indd mobi djvu one"},
    {Kind::archive, "iso dmg arj lzh"},
    {Kind::database, "dbf fdb mdf ldf"},
    {Kind::program, "com bin deb rpm app"},
};

using Kinds = std::unordered_map<std::string_view, Kind>;

/// What has a kind already keeps it: of two formats the one that is listed first.
void add(Kinds& to, Kind kind, std::string_view extensions) {
    for_each_word(extensions, [&](std::string_view ext) { to.emplace(ext, kind); });
}

const Kinds& table() {
    static const auto built = [] {
        Kinds out;
        for (const auto& f : formats()) {
            for (const auto& [kind, extensions] : f.others) add(out, kind, extensions);
            add(out, f.kind, f.extensions);
        }
        for (const auto& [kind, extensions] : unknown_formats) add(out, kind, extensions);
        return out;
    }();
    return built;
}
}  // namespace

std::string_view word(Kind kind) {
    return words[static_cast<std::size_t>(kind)];
}

std::optional<Kind> kind_from_word(std::string_view text) {
    const auto it = std::find(words.begin(), words.end(), text);
    if (it == words.end()) return std::nullopt;
    return static_cast<Kind>(it - words.begin());
}

Kind kind_of_extension(std::string_view ext) {
    const auto it = table().find(ext);
    return it == table().end() ? Kind::other : it->second;
}

}  // namespace undershelf
