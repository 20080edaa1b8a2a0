#pragma once
// Records of the three trees: those at their places in nodes, and those that may be left in free space.

#include <functional>
#include <string>

#include "base/timestamp.hpp"
#include "hfsplus/fork.hpp"

namespace undershelf::hfsplus {

struct ForkInfo {
    std::uint64_t size = 0;       ///< bytes
    std::uint32_t blocks = 0;     ///< in all extents, also in the overflow
    std::vector<Extent> extents;  ///< those in the record
    bool sound = true;            ///< no extent leaves the volume
    bool operator==(const ForkInfo&) const = default;
};

/// A folder or file as a catalogue record tells it.
struct Item {
    std::uint32_t id = 0, parent = 0;
    std::u16string name;  ///< as on disk: decomposed
    bool is_dir = false;
    bool has_key = true;                                                 ///< false: parent and name are lost
    std::uint32_t created = 0, modified = 0, changed = 0, accessed = 0;  ///< seconds since 1904 UTC
    std::uint32_t type = 0, creator = 0;                                 ///< of the Finder
    std::uint32_t special = 0;  ///< of a hard link: the number of its inode
    std::uint8_t owner_flags = 0;
    std::uint8_t finder_info[32] = {};
    ForkInfo data, resource;
    std::uint64_t source = 0;  ///< where its record is, bytes

    bool has_content() const { return !data.extents.empty() || !resource.extents.empty(); }
    // What the Finder's type and creator say.
    bool is_symlink() const { return !is_dir && type == 0x736C6E6B && creator == 0x72686170; }    // slnk rhap
    bool is_hard_link() const { return !is_dir && type == 0x686C6E6B && creator == 0x6866732B; }  // hlnk hfs+
    bool is_folder_link() const {
        return !is_dir && type == 0x66647270 && creator == 0x4D414353;
    }  // fdrp MACS
    /// kIsInvisible of finderFlags, at 8 in FileInfo and FolderInfo alike (TN1150, "Finder Info").
    bool is_invisible() const { return finder_info[8] & 0x40; }
    bool is_link() const { return is_symlink() || is_hard_link() || is_folder_link(); }
};

/// A thread record: where the item of an id is.
struct Thread {
    std::uint32_t id = 0, parent = 0;
    std::u16string name;
    bool is_dir = false;
    std::uint64_t source = 0;
};

/// What an index key, or a record cut off after its key, tells.
struct BareName {
    std::uint32_t parent = 0;
    std::u16string name;
    std::uint64_t source = 0;
};

struct OverflowExtents {
    std::uint32_t id = 0;
    bool resource = false;
    std::uint32_t start_block = 0;  ///< of the fork
    std::vector<Extent> extents;
};

struct Attribute {
    std::uint32_t id = 0;
    std::u16string name;
    std::uint64_t size = 0;   ///< bytes
    bool in_record = false;   ///< else in a fork of its own
    ByteVector data;          ///< in the record
    std::size_t data_at = 0;  ///< in the bytes the attribute was read from
    ForkInfo fork;
};

/// What a volume's records can be, for telling them from chance bytes.
struct Bounds {
    Geometry geometry;
    std::uint32_t next_id = 0;               ///< ids are below it; 0: unknown
    std::uint32_t earliest = 0, latest = 0;  ///< dates, seconds since 1904
    std::uint64_t nodes = 0;                 ///< of the catalogue
};

/// The item of a leaf record of the catalogue (key and data); nothing for threads and lies.
std::optional<Item> read_item(Bytes record, const Geometry& geometry);
/// The same, where something else may be over a part of it.
std::optional<Item> read_plausible_item(Bytes record, const Bounds& bounds);
/// The length of the catalogue record at the start of `bytes`; 0 where no whole record begins there.
std::size_t catalogue_record_length(Bytes bytes);
std::optional<Thread> read_thread(Bytes record);
std::optional<OverflowExtents> read_overflow(Bytes record, const Geometry& geometry);
std::optional<Attribute> read_attribute(Bytes record, const Geometry& geometry);

struct Leftovers {
    std::function<void(Item&&)> item;
    std::function<void(Thread&&)> thread;
    std::function<void(BareName&&)> name;
};
/// Looks through free space, or a whole node, at steps of two bytes for what may be records of the catalogue.
/// `offset` is where the bytes are in the source.
void find_leftovers(Bytes bytes, std::uint64_t offset, const Bounds& bounds, const Leftovers& out);
/// The same for the extents overflow and the attributes.
void find_overflow_leftovers(Bytes bytes, const Bounds& bounds,
                             const std::function<void(OverflowExtents&&)>& out);
void find_attribute_leftovers(Bytes bytes, const Bounds& bounds, const std::function<void(Attribute&&)>& out);

/// Of seconds since 1904 UTC; nothing for 0.
MaybeTime time_from(std::uint32_t seconds);
/// The name for output: composed, U+0000 shown as U+2400.
std::string shown(const std::u16string& name);

}  // namespace undershelf::hfsplus
