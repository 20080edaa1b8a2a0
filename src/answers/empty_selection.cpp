#include "answers/empty_selection.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include "answers/planner.hpp"
#include "base/amounts.hpp"

namespace undershelf {

namespace {

/// Nobody reads more than a few.
constexpr std::size_t most_told = 3;

/// What nobody reads to its end.
std::string shortened(const std::string& text) {
    constexpr std::size_t most = 60;  // bytes
    if (text.size() <= most) return text;
    auto end = most;
    while (end > 0 && (static_cast<unsigned char>(text[end]) & 0xC0) == 0x80)
        --end;  // not within a character
    return text.substr(0, end) + "...";
}

std::string as_typed(const std::string& option, const std::vector<std::string>& values) {
    return values.empty()
               ? fmt::format("--{}", option)
               : fmt::format("--{} {}", option, shortened(fmt::format("{}", fmt::join(values, ","))));
}

/// These say how to look, and select nothing.
bool is_manner(const std::string& option) {
    return option == "match-case" || option == "helpers";
}

std::vector<std::string> which_option(const Shelf& shelf, const Said& said) {
    std::vector<std::string> out;
    for (const auto& [option, values] : said) {
        if (is_manner(option) || out.size() == most_told) continue;
        auto others = said;
        others.erase(option);
        const auto selection = selection_from(others);
        // What has to be looked for in contents may leave none of these.
        if (selection.needs_a_look()) continue;
        if (const auto fit = shelf.count(selection))
            out.push_back(fmt::format("Without {} {}.", as_typed(option, values),
                                      counted(fit, "entry fits", "entries fit")));
    }
    if (!out.empty()) return out;
    for (const auto& [option, values] : said) {
        if (is_manner(option) || out.size() == most_told) continue;
        if (shelf.count(selection_from({{option, values}})) == 0)
            out.push_back(fmt::format("{} alone fits nothing.", as_typed(option, values)));
    }
    return out;
}

}  // namespace

std::vector<std::string> why_nothing_fits(const Shelf& shelf, const Said& said) {
    const auto all = shelf.count({});
    if (all == 0) return {"The shelf has no entry.", what_is_not_done(shelf)};
    std::vector<std::string> out{fmt::format("No entry fits, of {}.", counted(all, "entry", "entries"))};
    const auto options = which_option(shelf, said);
    out.insert(out.end(), options.begin(), options.end());
    out.push_back(what_is_not_done(shelf));
    std::erase(out, std::string());
    return out;
}

}  // namespace undershelf
