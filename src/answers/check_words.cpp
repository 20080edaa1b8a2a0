#include "answers/check_words.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include "base/amounts.hpp"
#include "base/text.hpp"
#include "content/formats.hpp"

namespace undershelf {

std::string check_in_words(const ShelfEntry& e) {
    if (!e.checked || !e.complete || !e.holds_to) return {};
    const auto* format = format_named(e.format);
    auto out = fmt::format("{}: ", format ? format->name : std::string_view(e.format));
    if (!*e.complete)
        out += fmt::format("holds up to byte {} of {}", grouped(*e.holds_to), grouped(e.size));
    else if (*e.holds_to == e.size)
        out += "holds to its end";
    else
        out += fmt::format("holds, and ends at byte {} of {}", grouped(*e.holds_to), grouped(e.size));
    out += fmt::format(", by a {} check", word(static_cast<Strength>(*e.checked)));
    if (e.proven_to > 0)
        out += *e.complete && e.proven_to >= *e.holds_to
                   ? ", all under checksums"
                   : fmt::format(", proven by checksums up to byte {}", grouped(e.proven_to));
    return out;
}

std::string details_in_words(const ShelfEntry& e) {
    std::vector<std::string> parts;
    const auto& d = e.details;
    if (!d.pixels.empty()) parts.push_back(d.pixels + " pixels");
    if (d.seconds) parts.push_back(fmt::format("{:.1f} s", *d.seconds));
    if (d.pages) parts.push_back(counted(*d.pages, "page", "pages"));
    if (!d.camera.empty()) parts.push_back("taken with " + d.camera);
    return fmt::format("{}", fmt::join(parts, ", "));
}

}  // namespace undershelf
