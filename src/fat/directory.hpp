#pragma once
// Folders as sequences of 32-byte slots: which slots make one entry, in their live and their erased form.

#include <functional>
#include <optional>
#include <string>
#include <vector>

#include "base/text.hpp"
#include "base/timestamp.hpp"
#include "clusters/folder_bytes.hpp"
#include "fat/structures.hpp"
#include "fat/table.hpp"

namespace undershelf::fat {

using clusters::FolderBytes;

/// One short entry with the long name that belongs to it.
struct ShortEntry {
    DirEntry entry{};
    std::size_t index = 0;            ///< of the short entry's slot in the folder
    std::uint64_t source_offset = 0;  ///< of that slot
    bool erased = false;
    bool zeroed = false;         ///< erased with zeros instead of the usual mark, after the last other entry
    bool after_end = false;      ///< after the end mark
    std::u16string long_name;    ///< empty for none
    bool long_name_cut = false;  ///< its last part is lost
    std::uint8_t first_letter =
        0;  ///< erased: solved from the checksum; counts only when `first_letter_agrees`
    bool first_letter_agrees = false;
};

/// Long-name slots whose short entry is gone.
struct Orphan {
    std::u16string name;
    std::size_t index = 0;
    std::uint64_t source_offset = 0;  ///< of the slot nearest to where the short entry stood
};

/// What a folder holds beside its entries.
struct FolderNotes {
    std::vector<Orphan> orphans;
    std::size_t unreadable_slots = 0;
    bool lost = false;       ///< an entry before the end mark is erased
    bool leftovers = false;  ///< something is after the end mark, or a long name by itself
};

/// Takes a folder apart, entry by entry: folders may have millions. Everything after the end mark is
/// reported with `after_end`. Ends early when `visit` returns false.
FolderNotes walk_folder(const FolderBytes& folder, const std::function<bool(ShortEntry&&)>& visit);

struct Listing : FolderNotes {
    std::vector<ShortEntry> entries;
};
/// All of a small folder at once.
Listing parse_folder(const FolderBytes& folder);

/// Checksum over the 11 short-name bytes (specification, section 7.2).
std::uint8_t name_checksum(const std::uint8_t name[11]);
/// The one first byte with which the name has this checksum: the rotate-and-add can be run backwards.
std::uint8_t solve_first_byte(const std::uint8_t name[11], std::uint8_t checksum);

/// Could this be a short entry of a file or folder at all? `erased` leaves out the first byte.
bool is_plausible(const DirEntry& entry, bool erased);
/// True for a cluster that begins with the entries '.' and '..'.
bool begins_with_dots(Bytes cluster);
/// True when every slot could be one: nothing else looks so.
bool looks_like_slots(Bytes cluster);

/// Is it a plausible entry of a file or a folder, and neither a label nor '.' or '..'?
bool names_something(const DirEntry& entry, bool erased);
/// The short entry that does so in the slot at `at`; nothing for none.
std::optional<DirEntry> short_entry_at(Bytes slots, std::size_t at);
/// The first of these before an end mark.
std::optional<DirEntry> first_entry_in(Bytes slots);

/// A short name as its users see it: trimmed, dotted, with the case bits of DIR_NTRes. An erased first byte
/// is shown as `first`, 0 for unknown: `_`.
std::string short_name(const DirEntry& entry, const CodePage& page, bool erased, std::uint8_t first);
/// A label entry's label: trimmed, without a dot, up to a NUL.
std::string label_of(const DirEntry& entry, const CodePage& page);

/// Local date and time of a directory entry; `tenths` counts 10 ms. Nothing for 0 and impossible dates.
MaybeTime dos_time(std::uint16_t date, std::uint16_t time, std::uint8_t tenths,
                   std::optional<int> zone_minutes);

inline Cluster start_cluster(const DirEntry& e, Width width) {
    const Cluster low = e.DIR_FstClusLO.value();
    return width == Width::fat32 ? low | static_cast<Cluster>(e.DIR_FstClusHI.value()) << 16 : low;
}

}  // namespace undershelf::fat
