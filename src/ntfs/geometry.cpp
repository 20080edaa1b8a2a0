#include "ntfs/geometry.hpp"

#include <cstring>

#include "ntfs/record.hpp"

namespace undershelf::ntfs {

namespace {
/// A signed size byte: clusters, or minus the power of two of bytes. 0 for an impossible one.
std::uint32_t unpack_size(std::int8_t value, std::uint32_t cluster_size) {
    if (value > 0) return static_cast<std::uint32_t>(value) * cluster_size;
    return value < 0 && value >= -24 ? 1u << -value : 0;
}

}  // namespace

std::optional<Geometry> read_geometry(const Source& source, std::uint64_t at) {
    const auto boot = source.read_structure<BootSector>(at);
    if (!boot || std::memcmp(boot->system_id, "NTFS    ", 8) != 0) return std::nullopt;
    const std::uint32_t sector = boot->bytes_per_sector.value();
    if (sector < 256 || sector > 4096 || !is_power_of_two(sector)) return std::nullopt;
    const std::uint32_t per = boot->sectors_per_clusters;
    const std::uint32_t sectors = per <= 0x80 ? per : per >= 0xF4 ? 1u << (256 - per) : 0;
    if (!is_power_of_two(sectors) || std::uint64_t{sectors} * sector > (2u << 20)) return std::nullopt;
    Geometry g{*boot, sector, sectors * sector, 0, 0, 0};
    g.record_size = unpack_size(boot->record_size, g.cluster_size);
    const auto total = boot->sectors_per_volume.value();
    g.index_size = unpack_size(boot->index_size, g.cluster_size);
    g.clusters = total / sectors;
    if (g.record_size < 512 || g.record_size > 65536 || !is_power_of_two(g.record_size) || total == 0 ||
        total > (1ull << 52))
        return std::nullopt;
    if (boot->mft_clst.value() >= g.clusters || boot->mft2_clst.value() >= g.clusters) return std::nullopt;
    return g;
}

std::optional<ByteVector> record_at(const Source& source, std::uint64_t at, const Geometry& g) {
    ByteVector bytes(g.record_size);
    source.read(at, bytes);
    if (std::memcmp(bytes.data(), "FILE", 4) != 0 || !undo_fixups(bytes)) return std::nullopt;
    return bytes;
}

}  // namespace undershelf::ntfs
