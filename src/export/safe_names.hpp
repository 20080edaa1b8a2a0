#pragma once
// Names from a volume made fit for any destination, and kept apart there.

#include <string>
#include <string_view>
#include <unordered_map>
#include <unordered_set>

namespace undershelf {

/// One path component that stays inside its folder on every usual file system: no separators, no control
/// characters, none of \ : * ? " < > | %, no dot or blank at its end, no reserved device name, at most 240
/// bytes of UTF-8 (cut in the middle, the extension kept), never empty, `.` or `..`.
std::string safe_component(std::string_view name);

/// Gives every file and folder of an export a path of its own. Paths that differ only in case or Unicode form
/// count as one, so that they do not meet on a destination that ignores these.
class SafePaths {
  public:
    /// The path of a folder for `original`, made of components joined by '/'. The same for the same original.
    std::string folder(std::string_view original);
    /// A path nobody else has for a file called `name` in folder(`original_folder`).
    std::string file(std::string_view original_folder, std::string_view name);
    /// Takes a path that is there already. False where it was taken before.
    bool take(std::string_view path);
    /// A folder that is there already. It may be used under its own spelling, and no other.
    void there_is_folder(std::string_view path);
    /// Files of `original` were put into `path`, so that more of them go there as well. Goes up as long as
    /// the names of both are of one another's making.
    void is_folder_of(std::string_view original, std::string_view path);

  private:
    bool take_unused(const std::string& path);
    std::string unused(const std::string& folder, const std::string& component);

    std::unordered_map<std::string, std::string> folders_;
    std::unordered_set<std::string> used_;                ///< folded
    std::unordered_map<std::string, std::string> there_;  ///< folders, by their folded path
    std::unordered_map<std::string, int> last_number_;    ///< given to a folded path that was taken
};

}  // namespace undershelf
