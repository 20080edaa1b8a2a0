#pragma once
// Entry sets: a file entry, its stream extension and its names, in their live and their deleted form.

#include <optional>
#include <string>
#include <vector>

#include "base/timestamp.hpp"
#include "clusters/folder_bytes.hpp"
#include "exfat/structures.hpp"
#include "volume/file_system.hpp"

namespace undershelf::exfat {

using clusters::FolderBytes;

struct EntrySet {
    FileEntry file{};
    StreamExtension stream{};
    std::u16string name;
    std::uint64_t source_offset = 0;  ///< of its first slot
    bool in_use = true;
    bool after_end = false;  ///< after the folder's end mark
    bool checksum_holds = false;
    bool headless = false;  ///< the file entry was written over: no times, no attributes; NameHash holds

    bool is_dir() const { return !headless && (file.FileAttributes.value() & attr_directory); }
};

/// Names of sets that are written over otherwise.
struct NameFragment {
    std::u16string name;
    std::uint64_t source_offset = 0;
};

struct Listing {
    std::vector<EntrySet> sets;
    std::vector<NameFragment> fragments;
    std::size_t unreadable_slots = 0;
    bool lost = false;       ///< a set before the end mark is deleted
    bool leftovers = false;  ///< something is after the end mark, or names by themselves
};

/// Takes a folder apart. Deleted sets count when their SetChecksum holds with the InUse bits restored; live
/// ones also when it does not, as drivers show them.
Listing parse_folder(const FolderBytes& folder);

/// The set that `bytes` begin with, live or deleted, if its checksum holds.
std::optional<EntrySet> sound_set(Bytes bytes);

/// The first set in `bytes` whose checksum holds, when nothing but the rest of another set is before it:
/// then these are a folder's. Its offset from the start, bytes.
std::optional<std::size_t> first_sound_set(Bytes bytes);

/// Does a set begin at the end of one cluster and go on in the other? True when its checksum holds over both
/// parts, false when it does not; nothing when no set seems to.
std::optional<bool> set_goes_on(Bytes before, Bytes after);
/// Bytes at the end of a cluster that such a set has; 0 for none.
std::size_t open_set(Bytes cluster_end);

/// Section 6.3.3: over all slots of a set, without the two bytes of SetChecksum itself.
std::uint16_t set_checksum(Bytes set);
/// Section 7.6.4, with up-casing of the letters a to z alone and, after them, of what simple case mapping
/// changes.
std::uint16_t name_hash(std::u16string_view name);

/// Name, kind, size, attributes and dates, and whether they are to be trusted. `folder`: the key of the
/// folder that holds the set.
Entry basic_entry(const EntrySet& set, const EntryKey& folder);

/// When a set says that its file was created, ticks; 0 where it does not say so.
std::int64_t birth_of(const EntrySet& set);

/// Section 7.4.8: a timestamp with its 10 ms increment and UTC offset byte.
MaybeTime timestamp(std::uint32_t stamp, std::uint8_t increment, std::uint8_t utc_offset);

}  // namespace undershelf::exfat
