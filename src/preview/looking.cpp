#include "preview/looking.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <nlohmann/json.hpp>

#include "base/amounts.hpp"
#include "content/formats.hpp"

namespace undershelf {

const Format* format_to_draw(const ShelfEntry& entry, Content& content) {
    Cursor start(content);
    const auto* begun = format_of_start(start.peek(4096));
    const auto* found = entry.format.empty() ? nullptr : format_named(entry.format);
    const Format* promised = nullptr;
    for (const auto& format : formats()) {
        if (!promised && promises(entry.ext, format)) promised = &format;
    }
    if (!begun) return found ? found : promised;
    // What is inside tells formats of one family apart, and only a check looks there.
    const auto same_family = [&](const Format* other) {
        return other && !begun->family.empty() && other->family == begun->family;
    };
    if (same_family(found) && found->word != begun->word) return found;
    return same_family(promised) ? promised : begun;
}

namespace {
std::string size_of(const Drawn& d) {
    return d.width && d.height ? fmt::format("{}x{} pixels", d.width, d.height) : std::string();
}
}  // namespace

std::string drawn_in_words(const Drawn& drawn) {
    const auto size = size_of(drawn);
    switch (drawn.shows) {
        case Shows::nothing:
            return "it cannot be drawn: " + drawn.why;
        case Shows::whole:
            return size;
        case Shows::text:
            return "its first lines";
        case Shows::embedded:
            return "a small picture that is kept in it" +
                   (drawn.why.empty() ? std::string() : "; " + drawn.why);
        case Shows::part:
            break;
    }
    if (!drawn.why.empty()) return drawn.why;
    const auto parts = std::clamp(static_cast<int>(std::floor(drawn.share * 100)), 0, 99);
    return fmt::format("as far as it holds: the upper {} of 100 parts; the rest is hatched", parts);
}

Drawn draw_entry(Drawings& drawings, const ShelfEntry& entry, Content& content, const Format* format,
                 const PictureWish& wish, std::string& file) {
    Drawn out;
    file.clear();
    if (entry.layout == Layout::none) {
        out.why = "nothing tells where its content was";
    } else if (entry.rated == Rated::yes && entry.rating.grade == Grade::gone) {
        out.why = "its content was overwritten";
    } else if (entry.size == 0) {
        out.why = "it is empty";
    } else {
        return drawings.content(content, format, wish, file);
    }
    return out;
}

std::string heading_of(const Format* format, const ShelfEntry& entry) {
    if (format) return std::string(format->name);
    return entry.ext.empty() ? "unknown format" : fmt::format("unknown format, .{}", entry.ext);
}

std::string draw_card(Drawings& drawings, const ShelfEntry& entry, const Format* format,
                      const std::string& why, const PictureWish& wish) {
    const double width = 400, height = 300, margin = 24;
    const auto text = [&](const std::string& words, double y, double size, int lines, bool bold,
                          const char* ink) {
        return nlohmann::json{{"text", words}, {"x", margin},  {"y", y},         {"w", width - 2 * margin},
                              {"size", size},  {"bold", bold}, {"lines", lines}, {"ink", ink}};
    };
    const nlohmann::json items{
        {{"box", "f4f3ee"}, {"x", 0}, {"y", 0}, {"w", width}, {"h", height}},
        text(heading_of(format, entry), 40, 26, 2, true, "33322e"),
        text(human_size(entry.size), 112, 20, 1, false, "33322e"),
        text(entry.shown_name(), 148, 20, 2, false, "33322e"),
        text(why, 212, 17, 3, false, "6b6a63"),
    };
    return drawings.pages({{"width", width}, {"height", height}, {"pages", {items}}}, {},
                          {wish.pixels, PictureForm::png, 0});
}

}  // namespace undershelf
