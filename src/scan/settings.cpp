#include "scan/settings.hpp"

#include <fmt/format.h>

#include <cstdlib>

namespace undershelf {

namespace {

constexpr std::string_view code_page = "code page ", zone = "; zone ", list = "; unreadable list ",
                           unknown = "unknown", none = "none", minutes = " minutes";

std::string offset_text(int east) {
    return fmt::format("{}{:02}:{:02}", east < 0 ? '-' : '+', std::abs(east) / 60, std::abs(east) % 60);
}

}  // namespace

std::string settings_text(const ScanOptions& o) {
    return fmt::format("{}{}{}{}{}{}", code_page, o.read.code_page, zone,
                       o.read.zone_minutes ? fmt::format("{}{}", *o.read.zone_minutes, minutes) : unknown,
                       list, o.unreadable_list.empty() ? none : o.unreadable_list);
}

std::vector<std::string> settings_options(const std::string& text) {
    const auto zone_at = text.find(zone), list_at = text.find(list);
    if (!text.starts_with(code_page) || zone_at == text.npos || list_at == text.npos || list_at < zone_at)
        return {};
    std::vector<std::string> out;
    const auto add = [&](const char* option, const std::string& value) {
        out.emplace_back(option);
        out.push_back(value);
    };
    const auto page = text.substr(code_page.size(), zone_at - code_page.size());
    if (page != ReadOptions().code_page) add("--code-page", page);
    const auto east = text.substr(zone_at + zone.size(), list_at - zone_at - zone.size());
    if (east != unknown) add("--zone", offset_text(std::atoi(east.c_str())));
    const auto unreadable = text.substr(list_at + list.size());
    if (unreadable != none) add("--unreadable", unreadable);
    return out;
}

}  // namespace undershelf
