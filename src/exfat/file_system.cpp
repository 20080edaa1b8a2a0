#include "exfat/file_system.hpp"

#include <fmt/format.h>

#include <boost/endian/conversion.hpp>
#include <cstring>

#include "base/text.hpp"
#include "exfat/structures.hpp"
#include "volume/unread_file_system.hpp"

namespace undershelf::exfat {

namespace {

constexpr std::uint64_t most_bitmap = 8 << 20;

struct Geometry {
    BootSector boot;
    std::uint32_t sector_size, cluster_size;
    std::uint64_t fat_offset, heap_offset;  ///< bytes from the volume's start

    std::uint64_t cluster_offset(std::uint32_t c) const {
        return heap_offset + std::uint64_t{c - 2} * cluster_size;
    }
    bool holds(std::uint32_t c) const { return c >= 2 && c - 2 < boot.ClusterCount.value(); }
};

/// Section 3.1: what a boot sector must fulfil by itself.
std::optional<Geometry> read_geometry(const Source& source, std::uint64_t at) {
    const auto boot = source.read_structure<BootSector>(at);
    if (!boot || std::memcmp(boot->FileSystemName, "EXFAT   ", 8) != 0 || !all_zero(boot->MustBeZero))
        return std::nullopt;
    if (boot->BytesPerSectorShift < 9 || boot->BytesPerSectorShift > 12 ||
        boot->SectorsPerClusterShift > 25 - boot->BytesPerSectorShift)
        return std::nullopt;
    if (boot->NumberOfFats < 1 || boot->NumberOfFats > 2) return std::nullopt;
    Geometry g{*boot, 1u << boot->BytesPerSectorShift,
               1u << (boot->BytesPerSectorShift + boot->SectorsPerClusterShift), 0, 0};
    g.fat_offset = std::uint64_t{boot->FatOffset.value()} * g.sector_size;
    g.heap_offset = std::uint64_t{boot->ClusterHeapOffset.value()} * g.sector_size;
    const auto length = boot->VolumeLength.value();
    const auto sectors = std::uint64_t{boot->ClusterCount.value()} << boot->SectorsPerClusterShift;
    if (length > (1ull << 52) || boot->ClusterHeapOffset.value() + sectors > length) return std::nullopt;
    if (boot->FatOffset.value() < 2 * boot_region_sectors ||
        boot->FatOffset.value() + std::uint64_t{boot->FatLength.value()} > boot->ClusterHeapOffset.value())
        return std::nullopt;
    if (!g.holds(boot->FirstClusterOfRootDirectory.value())) return std::nullopt;
    return g;
}

/// Section 3.4: the twelfth sector repeats a checksum over the first eleven.
bool region_verifies(const Source& source, std::uint64_t at, const Geometry& g) {
    ByteVector region(std::size_t{boot_region_sectors} * g.sector_size);
    if (!source.read(at, region).empty()) return false;
    std::uint32_t sum = 0;
    for (std::size_t i = 0; i < std::size_t{boot_region_sectors - 1} * g.sector_size; ++i) {
        if (i == 106 || i == 107 || i == 112) continue;  // VolumeFlags and PercentInUse change while mounted
        sum = (sum << 31 | sum >> 1) + region[i];
    }
    std::uint32_t stored;
    std::memcpy(&stored, region.data() + std::size_t{boot_region_sectors - 1} * g.sector_size, 4);
    return boost::endian::little_to_native(stored) == sum;
}

class ExfatFileSystem final : public UnreadFileSystem {
  public:
    std::string_view family() const override { return "exFAT"; }

    std::optional<Recognition> recognise(const Source& source, std::uint64_t offset) const override {
        return describe(source, offset, offset, "boot sector");
    }

    std::vector<Recognition> recognise_copy(const Source& source, std::uint64_t at) const override {
        const auto g = read_geometry(source, at);
        if (!g) return {};
        const auto back = std::uint64_t{boot_region_sectors} * g->sector_size;
        if (back > at) return {};
        auto r = describe(source, at - back, at, "second boot region");
        if (!r || r->volume.support < 0.6) return {};
        return {std::move(*r)};
    }

    std::vector<std::uint64_t> copy_places(const ByteRange& stretch,
                                           std::uint32_t sector_size) const override {
        return {stretch.offset + std::uint64_t{boot_region_sectors} * sector_size};
    }

    std::optional<Space> space(const Source& source, const Volume& volume) const override {
        const auto g = read_geometry(source, volume.head_offset);
        if (!g) return std::nullopt;
        const auto bitmap = bitmap_of(source, volume.offset, *g);
        if (!bitmap) return std::nullopt;
        const auto& bits = *bitmap;
        const auto clusters = g->boot.ClusterCount.value();
        Space out;
        const std::uint32_t step = std::max(1u, clusters / 512);
        for (std::uint32_t c = 0; c < clusters; ++c) {
            if (bits[c / 8] >> c % 8 & 1) {
                out.used += g->cluster_size;
            } else if (c % step == 0) {
                out.free_samples.push_back({volume.offset + g->cluster_offset(c + 2), g->cluster_size});
            }
        }
        out.free = std::uint64_t{clusters} * g->cluster_size - out.used;
        return out;
    }

  private:
    /// The root folder's first cluster: bitmap, up-case table and label stand there.
    static ByteVector root_of(const Source& source, std::uint64_t volume, const Geometry& g) {
        return source.read_vector(
            {volume + g.cluster_offset(g.boot.FirstClusterOfRootDirectory.value()), g.cluster_size});
    }

    template <class EntryType>
    static std::optional<EntryType> find_entry(Bytes root, std::uint8_t type) {
        for (std::size_t at = 0; at + 32 <= root.size() && root[at] != 0; at += 32) {
            if (root[at] == type) return load<EntryType>(root, at);
        }
        return std::nullopt;
    }

    static std::optional<ByteVector> bitmap_of(const Source& source, std::uint64_t volume,
                                               const Geometry& g) {
        const auto entry = find_entry<BitmapEntry>(root_of(source, volume, g), 0x81);
        const std::uint64_t needed = (std::uint64_t{g.boot.ClusterCount.value()} + 7) / 8;
        if (!entry || !g.holds(entry->FirstCluster.value()) || needed > most_bitmap ||
            entry->DataLength.value() < needed)
            return std::nullopt;
        // Formatters lay the bitmap out in one run.
        return source.read_vector({volume + g.cluster_offset(entry->FirstCluster.value()), needed});
    }

    static std::optional<Recognition> describe(const Source& source, std::uint64_t start, std::uint64_t head,
                                               const std::string& found_by) {
        const auto g = read_geometry(source, head);
        if (!g) return std::nullopt;
        Recognition r;
        auto& v = r.volume;
        v.family = v.file_system = "exFAT";
        v.readable = false;
        v.offset = start;
        v.head_offset = head;
        v.found_by = found_by;
        v.size = g->boot.VolumeLength.value() * g->sector_size;
        v.cluster_size = g->cluster_size;
        const auto serial = g->boot.VolumeSerialNumber.value();
        v.serial = fmt::format("{:04X}-{:04X}", serial >> 16, serial & 0xFFFF);
        int good = 0;
        if (region_verifies(source, head, *g)) {
            ++good;
        } else {
            r.remarks.push_back("The boot region fails its checksum.");
        }
        std::uint8_t fat[8] = {};
        source.read(start + g->fat_offset, fat);
        if (fat[0] == 0xF8 && fat[1] == 0xFF && fat[2] == 0xFF && fat[3] == 0xFF) {
            ++good;
        } else {
            r.remarks.push_back("The FAT does not begin as one.");
        }
        const auto root = root_of(source, start, *g);
        if (find_entry<BitmapEntry>(root, 0x81)) {
            ++good;
        } else {
            r.remarks.push_back("The root folder does not name an allocation bitmap.");
        }
        v.support = good / 3.0;
        if (const auto label = find_entry<LabelEntry>(root, 0x83); label && label->CharacterCount <= 11) {
            std::u16string text;
            for (int i = 0; i < label->CharacterCount; ++i)
                text += static_cast<char16_t>(label->VolumeLabel[i].value());
            v.label = utf8_from_utf16(text);
        }
        if (v.offset + v.size > source.size())
            r.remarks.push_back(fmt::format("The volume says it has {} bytes, {} more than the source holds.",
                                            v.size, v.offset + v.size - source.size()));
        return r;
    }
};

}  // namespace

const FileSystem& file_system() {
    static const ExfatFileSystem instance;
    return instance;
}

}  // namespace undershelf::exfat
