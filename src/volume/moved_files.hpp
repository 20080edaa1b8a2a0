#pragma once
// Some file systems leave an entry, as a deleted one, wherever a file was renamed or moved from. These are
// one file with earlier names, and no rivals: which of them are, and which place came last.

#include <memory>
#include <optional>
#include <string>
#include <vector>

#include "base/slash_path.hpp"
#include "volume/model.hpp"

namespace undershelf {

/// A lost entry of which it may be recorded where its content begins.
struct LostPlace {
    std::int64_t id = 0;
    int volume = 0;
    bool is_dir = false;
    bool binned = false;                 ///< its folder is a bin
    bool in_use = false;                 ///< of a former volume, and not deleted when that was given up
    std::optional<std::uint64_t> start;  ///< nothing where only its name and length are known
    std::uint64_t size = 0;
    MaybeTime created, modified, accessed;
    std::int64_t folder = 0;                  ///< id of the folder it is in
    std::optional<std::int64_t> folder_born;  ///< when that was made, ticks
    std::uint64_t slot = 0;                   ///< where its entry is, bytes of the source
    Layout layout = Layout::none;
    std::shared_ptr<const std::string> folder_path;  ///< many entries share one, and it may be long
    std::string name, ext;
    NameCertainty certainty{};  ///< of its name
    std::string told;           ///< its first path by a bin's record; empty for none

    std::string path() const { return joined_path(*folder_path, name); }
};

/// Puts together what is one file: entries of one volume with one start, length and birth. Where no birth is
/// recorded they need one time of change and one extension as well, or the record of a bin. A birth at
/// midnight to the tick counts as not recorded: cameras whose clock was never set write such dates. Folders
/// change their length, and need their birth. Where only a name and a length are left outside of bins, they
/// are those of the binned file whose record says so.
/// Groups of two and more, the latest place first, of most_earlier_names entries besides it at most; what is
/// beyond is in none.
std::vector<std::vector<LostPlace>> group_moved(std::vector<LostPlace> places);

/// Of two of a group, in its order: is it known that the first came later? Told by what was in use at the
/// end, bins, dates, folders that were made after the file, and the order of entries in one folder.
bool is_known_later(const LostPlace& later, const LostPlace& earlier);

}  // namespace undershelf
