#include "ntfs/file_system.hpp"

#include <fmt/format.h>

#include <cstring>

#include "base/text.hpp"
#include "ntfs/former.hpp"
#include "ntfs/geometry.hpp"
#include "ntfs/reader.hpp"
#include "ntfs/record.hpp"
#include "ntfs/settle.hpp"
#include "ntfs/structures.hpp"
#include "ntfs/traces.hpp"

namespace undershelf::ntfs {

namespace {

constexpr std::uint64_t most_bitmap = 8 << 20;

/// Record `number`, by the $MFT's first run; its mirror for the first four.
std::optional<ByteVector> system_record(const Source& source, std::uint64_t volume, const Geometry& g,
                                        std::uint64_t number) {
    const auto place = [&](std::uint64_t cluster) {
        return volume + cluster * g.cluster_size + number * g.record_size;
    };
    if (auto record = record_at(source, place(g.boot.mft_clst.value()), g)) return record;
    if (number > 3) return std::nullopt;
    return record_at(source, place(g.boot.mft2_clst.value()), g);
}

std::string label_of(const Source& source, std::uint64_t volume, const Geometry& g) {
    const auto record = system_record(source, volume, g, MFT_REC_VOL);
    if (!record) return {};
    for (const auto& a : attributes_of(*record)) {
        if (a.type != ATTR_LABEL) continue;
        return utf8_from_utf16(utf16_units(a.value()));
    }
    return {};
}

class NtfsFileSystem final : public FileSystem {
  public:
    std::string_view family() const override { return "NTFS"; }
    std::vector<std::string_view> systems() const override { return {"NTFS"}; }

    std::optional<Recognition> recognise(const Source& source, std::uint64_t offset,
                                         const ReadOptions&) const override {
        return describe(source, offset, offset, "boot sector");
    }

    std::vector<Recognition> recognise_copy(const Source& source, std::uint64_t at,
                                            const ReadOptions&) const override {
        const auto g = read_geometry(source, at);
        // The copy is in the sector after the last one that the volume counts.
        if (!g || g->size() - g->sector_size > at) return {};
        auto r = describe(source, at - (g->size() - g->sector_size), at, "copy of its boot sector");
        if (!r || r->volume.support < 0.5) return {};
        return {std::move(*r)};
    }

    std::vector<std::uint64_t> copy_places(const ByteRange& stretch,
                                           std::uint32_t sector_size) const override {
        if (stretch.length < sector_size) return {};
        return {stretch.end() / sector_size * sector_size - sector_size};
    }

    bool may_be_head(Bytes sector) const override {
        return std::memcmp(sector.data() + offsetof(BootSector, system_id), "NTFS    ", 8) == 0;
    }

    std::optional<Space> space(const Source& source, const Volume& volume) const override {
        const auto g = read_geometry(source, volume.head_offset);
        if (!g || g->clusters / 8 > most_bitmap) return std::nullopt;
        const auto record = system_record(source, volume.offset, *g, MFT_REC_BITMAP);
        if (!record) return std::nullopt;
        for (const auto& a : attributes_of(*record)) {
            if (a.type != ATTR_DATA || a.resident) continue;
            const auto runs = runs_of(a, *g);
            if (!runs) return std::nullopt;
            ByteVector bits;
            for (const auto& run : *runs) {
                if (bits.size() + run.count * g->cluster_size > most_bitmap + g->cluster_size)
                    return std::nullopt;
                const auto part = run.sparse ? ByteVector(run.count * g->cluster_size)
                                             : source.read_vector({volume.offset + run.lcn * g->cluster_size,
                                                                   run.count * g->cluster_size});
                bits.insert(bits.end(), part.begin(), part.end());
            }
            if (bits.size() * 8 < g->clusters) return std::nullopt;
            return count(bits, volume, *g);
        }
        return std::nullopt;
    }

    std::unique_ptr<VolumeReader> open(const Source& source, const Volume& volume, const TraceStore& traces,
                                       const ReadOptions&) const override {
        if (!volume.geometry.empty()) return open_former(source, volume, traces);
        auto g = read_geometry(source, volume.head_offset);
        if (!g) {
            throw Error(Trouble::input, fmt::format("The boot sector of the NTFS volume at offset {} cannot "
                                                    "be read any more; scan the source again.",
                                                    volume.offset));
        }
        if (volume.offset < source.size())
            g->source_clusters = (source.size() - volume.offset) / g->cluster_size;
        return std::make_unique<Reader>(source, volume, *g);
    }

    void find_traces(const SweepBuffer& buffer, TraceSink& sink) const override {
        ntfs::find_traces(buffer, sink);
    }
    std::vector<Recognition> settle(const Settling& settling, const Progress& progress) const override {
        return ntfs::settle(settling, progress);
    }
    Recognition as_told(const VolumeHint& told, const Settling& settling) const override {
        return ntfs::as_told(told, settling);
    }

  private:
    static Space count(Bytes bits, const Volume& volume, const Geometry& g) {
        Space out;
        const auto step = std::max<std::uint64_t>(1, g.clusters / 512);
        for (std::uint64_t c = 0; c < g.clusters; ++c) {
            if (bits[c / 8] >> c % 8 & 1) {
                out.used += g.cluster_size;
            } else if (c % step == 0) {
                out.free_samples.push_back({volume.offset + c * g.cluster_size, g.cluster_size});
            }
        }
        out.free = g.clusters * g.cluster_size - out.used;
        return out;
    }

    static std::optional<Recognition> describe(const Source& source, std::uint64_t start, std::uint64_t head,
                                               const std::string& found_by) {
        const auto g = read_geometry(source, head);
        if (!g) return std::nullopt;
        Recognition r;
        auto& v = r.volume;
        v.family = v.file_system = "NTFS";
        v.offset = start;
        v.head_offset = head;
        v.grid_start = start;
        v.found_by = found_by;
        v.size = g->size();
        v.cluster_size = g->cluster_size;
        v.serial = fmt::format("{:016X}", g->boot.serial_num.value());
        v.label = label_of(source, start, *g);
        int good = 1;
        if (record_at(source, start + g->boot.mft_clst.value() * g->cluster_size, *g)) {
            ++good;
        } else {
            r.remarks.push_back("The $MFT is not where the boot sector says.");
        }
        if (record_at(source, start + g->boot.mft2_clst.value() * g->cluster_size, *g)) {
            ++good;
        } else {
            r.remarks.push_back("The $MFTMirr is not where the boot sector says.");
        }
        v.support = good / 3.0;
        if (v.offset + v.size > source.size() + g->sector_size) {
            r.remarks.push_back(fmt::format("The volume says it has {} bytes, {} more than the source holds.",
                                            v.size, v.offset + v.size - source.size()));
        }
        return r;
    }
};

}  // namespace

const FileSystem& file_system() {
    static const NtfsFileSystem instance;
    return instance;
}

}  // namespace undershelf::ntfs
