#pragma once
// Writes FAT volumes byte by byte, sound ones and broken ones.

#include <string>
#include <vector>

#include "fat/geometry.hpp"

namespace undershelf::test {

struct FatShape {
    fat::Width width = fat::Width::fat32;
    std::uint32_t clusters = 2000;  ///< data clusters; FAT16 wants at least 4085, FAT32 takes any number
    std::uint32_t sectors_per_cluster = 1;
    std::string label = {};
};

/// What goes into a folder slot.
struct FatSlot {
    std::string short_name;         ///< 11 bytes, blank-padded
    std::u16string long_name = {};  ///< empty for none
    fat::Cluster start = 0;
    std::uint32_t size = 0;
    std::uint8_t attr = 0x20;
    std::uint16_t date = 0x5A64;  ///< 2025-03-04
    std::uint16_t time = 0x5000;  ///< 10:00
    bool erased = false;
};

class FatImage {
  public:
    explicit FatImage(const FatShape& shape = {});

    const fat::Geometry& geometry() const { return geometry_; }
    ByteVector& bytes() { return bytes_; }
    /// Sets a FAT entry, in both copies or in one (0, 1).
    void set_fat(fat::Cluster cluster, std::uint32_t value, int copy = -1);
    /// Links clusters to a chain that ends with an end mark.
    void chain(const std::vector<fat::Cluster>& clusters);
    void fill(fat::Cluster cluster, const std::string& content);
    /// Appends slots to a folder that starts in `cluster`; 0: the root folder. Returns the source offset of
    /// the short slot.
    std::uint64_t add(fat::Cluster folder, const FatSlot& slot);
    /// Gives a new folder cluster its '.' and '..'.
    void make_folder(fat::Cluster cluster, fat::Cluster parent);
    /// A whole live file: content, chain and slots. Returns the offset of its short slot.
    std::uint64_t put(fat::Cluster folder, const std::string& short_name, const std::u16string& long_name,
                      const std::vector<fat::Cluster>& clusters, const std::string& content);
    /// Marks the slot at this offset and its long-name slots erased and frees its chain.
    void erase(std::uint64_t slot_offset);
    std::uint64_t cluster_offset(fat::Cluster c) const { return geometry_.cluster_offset(c); }

  private:
    std::uint64_t free_slot(fat::Cluster folder);
    ByteVector bytes_;
    fat::Geometry geometry_;
};

/// Text that tells where in which file it belongs, of this length.
std::string sample_text(const std::string& name, std::size_t length);

}  // namespace undershelf::test
