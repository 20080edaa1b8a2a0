#include "exfat/file_system.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cstring>

#include "exfat/former.hpp"
#include "exfat/geometry.hpp"
#include "exfat/reader.hpp"
#include "exfat/root_folder.hpp"
#include "exfat/settle.hpp"
#include "exfat/traces.hpp"

namespace undershelf::exfat {

namespace {

class ExfatFileSystem final : public FileSystem {
  public:
    std::string_view family() const override { return "exFAT"; }
    std::vector<std::string_view> systems() const override { return {"exFAT"}; }
    std::int32_t date_resolution() const override { return clusters::date_resolution; }

    std::optional<Recognition> recognise(const Source& source, std::uint64_t offset,
                                         const ReadOptions&) const override {
        return describe(source, offset, offset, "boot sector");
    }

    std::vector<Recognition> recognise_copy(const Source& source, std::uint64_t at,
                                            const ReadOptions&) const override {
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

    bool may_be_head(Bytes sector) const override {
        return std::memcmp(sector.data() + offsetof(BootSector, FileSystemName), "EXFAT   ", 8) == 0;
    }

    std::optional<Space> space(const Source& source, const Volume& volume) const override {
        const auto g = read_geometry(source, volume.head_offset);
        if (!g) return std::nullopt;
        const Allocation allocation(source, volume.offset, *g);
        if (!allocation.has_bitmap()) return std::nullopt;
        Space out;
        out.used = allocation.used_clusters() * g->cluster_size;
        out.free = std::uint64_t{g->clusters()} * g->cluster_size - out.used;
        out.free_samples = clusters::free_samples(allocation.grid(), allocation.used());
        return out;
    }

    std::unique_ptr<VolumeReader> open(const Source& source, const Volume& volume, const TraceStore& traces,
                                       const ReadOptions& options) const override {
        if (!volume.geometry.empty()) return open_without_head(source, volume, traces);
        const auto g = read_geometry(source, volume.head_offset);
        if (!g) {
            throw Error(Trouble::input, fmt::format("The boot sector of the exFAT volume at offset {} cannot "
                                                    "be read any more; scan the source again.",
                                                    volume.offset));
        }
        auto reader = std::make_unique<Reader>(source, volume, *g);
        reader->search_no_more_than(options.search_bytes);
        return reader;
    }

    bool is_searched_in_part(const Volume& volume, const ReadOptions& options) const override {
        return volume.size > options.search_bytes;
    }
    std::vector<std::uint64_t> lost_folders(const Source& source, const PresentLife& life,
                                            const TraceStore& traces, const ReadOptions&) const override {
        return exfat::lost_folders(source, life, traces);
    }

    void find_traces(const SweepBuffer& buffer, TraceSink& sink) const override {
        exfat::find_traces(buffer, sink);
    }
    std::vector<Recognition> settle(const Settling& settling, const Progress& progress) const override {
        return exfat::settle(settling, progress);
    }
    Recognition as_told(const VolumeHint& told, const Settling& settling) const override {
        return exfat::as_told(told, settling);
    }

  private:
    static std::optional<Recognition> describe(const Source& source, std::uint64_t start, std::uint64_t head,
                                               const std::string& found_by) {
        const auto g = read_geometry(source, head);
        if (!g) return std::nullopt;
        Recognition r;
        auto& v = r.volume;
        v.family = v.file_system = "exFAT";
        v.offset = start;
        v.head_offset = head;
        v.grid_start = start + g->heap_offset;
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
        const RootFolder root(source, g->grid(start), fat_of(source, start, *g),
                              g->boot.FirstClusterOfRootDirectory.value());
        if (root.find<BitmapEntry>(type_bitmap)) {
            ++good;
        } else {
            r.remarks.push_back("The root folder does not name an allocation bitmap.");
        }
        v.support = good / 3.0;
        v.label = root.label();
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
