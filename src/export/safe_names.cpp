#include "export/safe_names.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <array>

#include "base/printable.hpp"
#include "base/slash_path.hpp"
#include "base/text.hpp"

namespace undershelf {

namespace {

constexpr std::size_t longest = 240;

bool is_reserved(std::string_view name) {
    // Device names of DOS and Windows, with or without an extension.
    static constexpr std::array<std::string_view, 4> words{"con", "prn", "aux", "nul"};
    const auto stem = folded(name.substr(0, name.find('.')));
    if (std::find(words.begin(), words.end(), stem) != words.end()) return true;
    return stem.size() == 4 && (stem.starts_with("com") || stem.starts_with("lpt")) && stem[3] >= '0' &&
           stem[3] <= '9';
}

/// Where a UTF-8 character begins at or before `at`.
std::size_t character_start(std::string_view text, std::size_t at) {
    while (at > 0 && at < text.size() && (static_cast<unsigned char>(text[at]) & 0xC0) == 0x80) --at;
    return at;
}

std::string shortened(const std::string& name, std::size_t most) {
    if (name.size() <= most) return name;
    const auto dot = name.rfind('.');
    const auto tail = dot != std::string::npos && name.size() - dot <= 16 ? name.substr(dot) : std::string();
    return name.substr(0, character_start(name, most - tail.size() - 1)) + "~" + tail;
}

/// `name` with `number` before its extension.
std::string numbered(const std::string& name, int number) {
    const auto dot = name.rfind('.');
    const auto stem = dot == std::string::npos || dot == 0 ? name : name.substr(0, dot);
    const auto ext = stem.size() == name.size() ? std::string() : name.substr(dot);
    return fmt::format("{}~{}{}", stem, number, ext);
}

/// Could it be the name, made safe, perhaps with a number?
bool is_made_of(std::string_view safe, std::string_view name) {
    const auto plain = safe_component(name);
    if (safe == plain) return true;
    const auto tilde = safe.find('~');
    if (tilde == std::string_view::npos) return false;
    const auto end = std::min(safe.size(), safe.find_first_not_of("0123456789", tilde + 1));
    std::string without(safe.substr(0, tilde));
    return without.append(safe.substr(end)) == plain;
}

}  // namespace

std::string safe_component(std::string_view name) {
    std::string out;
    for_each_character(composed(name), [&](char32_t c, std::string_view bytes) {
        const bool bad =
            is_unprintable(c) || (c < 0x80 && std::string_view("/\\:*?\"<>|%").find(static_cast<char>(c)) !=
                                                  std::string_view::npos);
        out += bad ? std::string_view("_") : bytes;
    });
    if (out.empty() || out == "." || out == "..")
        out = std::string(std::max<std::size_t>(out.size(), 1), '_');
    if (out.back() == '.' || out.back() == ' ') out.back() = '_';
    if (is_reserved(out)) out.insert(out.begin(), '_');
    return shortened(out, longest);
}

bool SafePaths::take(std::string_view path) {
    return used_.insert(folded(path)).second;
}

void SafePaths::there_is_folder(std::string_view path) {
    there_.emplace(folded(path), path);
}

void SafePaths::is_folder_of(std::string_view original, std::string_view path) {
    while (!original.empty() && !path.empty() && !folders_.count(std::string(original))) {
        if (!is_made_of(name_in(path), name_in(original))) return;
        folders_.emplace(original, path);
        take(path);
        original = folder_in(original);
        path = folder_in(path);
    }
}

/// What is there in another spelling would be met on a destination that does not tell them apart.
bool SafePaths::take_unused(const std::string& path) {
    const auto key = folded(path);
    const auto there = there_.find(key);
    if (there != there_.end() && there->second != path) return false;
    return used_.insert(key).second;
}

std::string SafePaths::unused(const std::string& folder, const std::string& component) {
    const auto in = folder.empty() ? std::string() : folder + "/";
    auto path = in + component;
    if (take_unused(path)) return path;
    // Folders with many files of one name must not be counted through for each.
    auto& number = last_number_[folded(path)];
    do path = in + numbered(component, number = std::max(number + 1, 2));
    while (!take_unused(path));
    return path;
}

std::string SafePaths::folder(std::string_view original) {
    if (original.empty()) return {};
    if (const auto it = folders_.find(std::string(original)); it != folders_.end()) return it->second;
    const auto slash = original.rfind('/');
    const auto parent = slash == std::string_view::npos ? std::string() : folder(original.substr(0, slash));
    const auto name = slash == std::string_view::npos ? original : original.substr(slash + 1);
    return folders_[std::string(original)] = unused(parent, safe_component(name));
}

std::string SafePaths::file(std::string_view original_folder, std::string_view name) {
    return unused(folder(original_folder), safe_component(name));
}

}  // namespace undershelf
