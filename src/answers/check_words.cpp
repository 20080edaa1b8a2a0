#include "answers/check_words.hpp"

#include <fmt/format.h>

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

}  // namespace undershelf
