#include "bins/bin_place.hpp"

#include <vector>

#include "base/slash_path.hpp"
#include "base/text.hpp"

namespace undershelf {

namespace {

/// The first few names of a path, folded: no bin's own folders go deeper.
std::vector<std::string> top_names(std::string_view path) {
    constexpr std::size_t most = 4;
    std::vector<std::string> out;
    for (std::size_t at = 0; at < path.size() && out.size() < most;) {
        const auto end = std::min(path.find('/', at), path.size());
        out.push_back(folded(path.substr(at, end - at)));
        at = end + 1;
    }
    return out;
}

bool is_called(std::string_view name, std::string_view known) {
    return name == known ||
           (name.starts_with('_') && name.size() == known.size() && name.substr(1) == known.substr(1));
}

/// How many of a path's first names are the bin's, at the least; `holds`: what is below these was thrown
/// away.
struct Depth {
    BinPlace::System system{};
    std::size_t names = 0;
    bool holds = false;
};

std::optional<Depth> depth_of(const std::vector<std::string>& names) {
    using System = BinPlace::System;
    if (names.empty()) return std::nullopt;
    const auto name = [&](std::size_t i) { return i < names.size() ? names[i] : std::string(); };
    const bool new_one = is_called(name(0), "$recycle.bin");
    if (new_one || is_called(name(0), "recycler") || is_called(name(0), "recycled"))
        return Depth{new_one ? System::windows : System::old_windows,
                     name(1).starts_with("s-1-") ? std::size_t{2} : std::size_t{1}, true};
    const auto trash = name(0).starts_with(".trash-") ? 1u : name(0) == ".trash" ? 2u : 0u;
    if (trash) {
        const bool holds = name(trash) == "files" || name(trash) == "expunged";
        const bool own = holds || name(trash) == "info";
        return Depth{System::freedesktop, std::min<std::size_t>(names.size(), own ? trash + 1 : trash),
                     holds};
    }
    if (is_called(name(0), ".trashes"))
        return Depth{System::macos, std::min<std::size_t>(names.size(), 2), names.size() >= 2};
    return std::nullopt;
}

/// Bytes of the first `names` names of a path.
std::size_t length_of(std::string_view path, std::size_t names) {
    std::size_t end = 0;
    for (std::size_t i = 0; i < names && end < path.size(); ++i)
        end = std::min(path.find('/', end ? end + 1 : 0), path.size());
    return end;
}

}  // namespace

std::optional<BinPlace> bin_place_of(std::string_view path) {
    const auto depth = depth_of(top_names(path));
    if (!depth || !depth->holds) return std::nullopt;
    const auto end = length_of(path, depth->names);
    return BinPlace{depth->system, std::string(path.substr(0, end)),
                    std::string(end < path.size() ? path.substr(end + 1) : std::string_view())};
}

bool is_bins_own_folder(std::string_view path) {
    const auto depth = depth_of(top_names(path));
    return depth && length_of(path, depth->names) == path.size();
}

}  // namespace undershelf
