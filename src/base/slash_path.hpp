#pragma once
// Paths as entries have them: from their volume's root, `/`-separated, without a leading slash.

#include <algorithm>
#include <string>
#include <string_view>

namespace undershelf {

/// All before the last name; empty in the root.
inline std::string_view folder_in(std::string_view path) {
    const auto slash = path.rfind('/');
    return slash == path.npos ? std::string_view() : path.substr(0, slash);
}

/// The last name.
inline std::string_view name_in(std::string_view path) {
    return path.substr(path.rfind('/') + 1);
}

/// Is it the folder, or in it, however deep? Everything is in the root, which is empty.
inline bool is_within(std::string_view path, std::string_view folder) {
    return folder.empty() ||
           (path.starts_with(folder) && (path.size() == folder.size() || path[folder.size()] == '/'));
}

inline std::string joined_path(std::string_view folder, std::string_view name) {
    std::string out(folder);
    if (!out.empty()) out += '/';
    return out += name;
}

/// The way from a folder to a path, both below the same root: `../` for every folder to leave.
inline std::string relative_path(std::string_view from_folder, std::string_view to) {
    const auto first_name = [](std::string_view path) { return path.substr(0, path.find('/')); };
    const auto drop_name = [&](std::string_view& path) {
        path.remove_prefix(std::min(path.size(), first_name(path).size() + 1));
    };
    while (!from_folder.empty() && to.find('/') != to.npos && first_name(from_folder) == first_name(to)) {
        drop_name(from_folder);
        drop_name(to);
    }
    std::string out;
    for (; !from_folder.empty(); drop_name(from_folder)) out += "../";
    return out += to;
}

}  // namespace undershelf
