#pragma once
// Partition maps: what they say, and where they contradict themselves. Whether a file system is where a
// map says is another question (find_volumes.hpp).

#include <optional>
#include <string>
#include <vector>

#include "source/source.hpp"

namespace undershelf {

struct Partition {
    int number = 0;            ///< as the map's own tools number it
    std::uint64_t offset = 0;  ///< bytes of the source
    std::uint64_t size = 0;    ///< bytes
    std::string type;          ///< in words where the type is known, else its code
    std::string name;          ///< empty where the map keeps none
    std::string state;         ///< `ok`, or what is wrong with it

    /// Does it hold others on purpose: an extended partition, a protective one, the Apple map itself?
    bool holds_others() const {
        return type == "extended" || type.starts_with("protective") || type == "Apple_partition_map";
    }
    /// May it have a volume of its own?
    bool is_room() const { return size > 0 && !holds_others(); }
    /// Is it for something else than a file system? UEFI specification and its registered types: reserved for
    /// the system, a boot loader's code, swap; Inside Macintosh, Devices, chapter 3: drivers, and free space.
    bool is_for_no_volume() const {
        for (const auto* other : {"Microsoft reserved", "BIOS boot", "Linux swap", "Apple_Free", "Apple_Void",
                                  "Apple_Extra", "Apple_Patches"}) {
            if (type == other) return true;
        }
        return type.starts_with("Apple_Driver");
    }
};

struct PartitionMap {
    std::string scheme;                 ///< `MBR`, `GPT`, `Apple partition map`
    std::string condition = "ok";       ///< `ok`, `damaged`, `contradicts itself`
    std::vector<Partition> partitions;  ///< ascending by number
    std::vector<std::string> remarks;   ///< sentences on what is wrong
};

/// The map of a source; nothing when there is none.
std::optional<PartitionMap> read_partition_map(const Source& source);

/// GUID partition table: of the copy that is sound, the first one where both are. Nothing when neither header
/// is there.
std::optional<PartitionMap> read_gpt(const Source& source, std::uint32_t sector_size);

/// Apple partition map; block size from the driver descriptor.
std::optional<PartitionMap> read_apple_map(const Source& source);

/// Master boot record with its logical partitions. `sector_size` in bytes. Nothing without the signature 55
/// AA, or when the table cannot be one.
std::optional<PartitionMap> read_mbr(const Source& source, std::uint32_t sector_size);

}  // namespace undershelf
