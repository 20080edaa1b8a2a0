#pragma once
// Paths as entries have them: from their volume's root, `/`-separated, without a leading slash.

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

}  // namespace undershelf
