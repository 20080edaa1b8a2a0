#include "fat/geometry.hpp"

#include <fmt/format.h>

#include <algorithm>

namespace undershelf::fat {

namespace {

/// A label as formatters write it, up to its padding; they write `NO NAME` for none.
std::string label_bytes(const std::uint8_t (&bytes)[11]) {
    const std::string_view whole(reinterpret_cast<const char*>(bytes), sizeof bytes);
    auto label = whole.substr(0, whole.find('\0'));
    label = label.substr(0, label.find_last_not_of(' ') + 1);
    return label == "NO NAME" ? std::string() : std::string(label);
}

/// The first thing that is impossible in a boot sector's common part; empty when nothing is.
std::string objection(const BootSector& b) {
    const auto sector = b.BPB_BytsPerSec.value();
    if (sector < 512 || sector > 4096 || !is_power_of_two(sector))
        return fmt::format("{} bytes per sector", sector);
    if (!is_power_of_two(b.BPB_SecPerClus)) return fmt::format("{} sectors per cluster", b.BPB_SecPerClus);
    if (b.BPB_RsvdSecCnt.value() == 0) return "no reserved sectors";
    if (b.BPB_NumFATs < 1 || b.BPB_NumFATs > 2) return fmt::format("{} FATs", b.BPB_NumFATs);
    if (b.BPB_Media != 0xF0 && b.BPB_Media < 0xF8) return fmt::format("media byte 0x{:02X}", b.BPB_Media);
    if (b.BPB_FATSz16.value() == 0 && b.ext.fat32.BPB_FATSz32.value() == 0) return "FATs without length";
    if (b.BPB_TotSec16.value() == 0 && b.BPB_TotSec32.value() == 0) return "no sectors at all";
    if (b.BPB_FATSz16.value() != 0 && b.BPB_RootEntCnt.value() == 0) return "a root folder without room";
    return {};
}

void read_fat32_part(const BootSector& b, Geometry& g) {
    const auto& e = b.ext.fat32;
    g.width = Width::fat32;
    g.root_cluster = e.BPB_RootClus.value();
    g.mirrored = !(e.BPB_ExtFlags.value() & 0x80);
    if (!g.mirrored) g.active_fat = std::min<std::uint32_t>(e.BPB_ExtFlags.value() & 0x0F, g.fat_count - 1);
    const auto backup = e.BPB_BkBootSec.value();
    if (backup && backup < b.BPB_RsvdSecCnt.value())
        g.backup_offset = std::uint64_t{backup} * g.bytes_per_sector;
    if (e.BS_BootSig == 0x29 || e.BS_BootSig == 0x28) g.serial = e.BS_VolID.value();
    if (e.BS_BootSig == 0x29) g.boot_label = label_bytes(e.BS_VolLab);
}

void read_fat16_part(const BootSector& b, Geometry& g) {
    const auto& e = b.ext.fat16;
    if (e.BS_BootSig == 0x29 || e.BS_BootSig == 0x28) g.serial = e.BS_VolID.value();
    if (e.BS_BootSig == 0x29) g.boot_label = label_bytes(e.BS_VolLab);
}

/// How many clusters one FAT has entries for.
std::uint64_t entries_in_fat(const Geometry& g) {
    const auto entries = g.fat_size * 8 / static_cast<unsigned>(g.width);
    return entries > 2 ? entries - 2 : 0;
}

}  // namespace

std::optional<Geometry> parse_boot_sector(Bytes sector, std::string* why) {
    const auto no = [&](const std::string& reason) {
        if (why) *why = reason;
        return std::nullopt;
    };
    const auto loaded = load<BootSector>(sector);
    if (!loaded) return no("fewer than 512 bytes");
    const auto& b = *loaded;
    const bool jump = (b.BS_jmpBoot[0] == 0xEB && b.BS_jmpBoot[2] == 0x90) || b.BS_jmpBoot[0] == 0xE9;
    const bool signature = b.Signature_word.value() == 0xAA55;
    // Either may be missing on real volumes, both never are.
    if (!jump && !signature) return no("neither a jump nor a signature");
    if (auto reason = objection(b); !reason.empty()) return no(reason);

    Geometry g;
    g.signature = signature;
    g.bytes_per_sector = b.BPB_BytsPerSec.value();
    g.cluster_size = g.bytes_per_sector * b.BPB_SecPerClus;
    g.media = b.BPB_Media;
    g.fat_count = b.BPB_NumFATs;
    const bool fat32 = b.BPB_FATSz16.value() == 0;
    const std::uint64_t unit = g.bytes_per_sector;
    g.fat_offset = b.BPB_RsvdSecCnt.value() * unit;
    g.fat_size = (fat32 ? b.ext.fat32.BPB_FATSz32.value() : b.BPB_FATSz16.value()) * unit;
    g.root_offset = g.fat_offset + g.fat_count * g.fat_size;
    g.root_size = fat32 ? 0 : (b.BPB_RootEntCnt.value() * slot_size + unit - 1) / unit * unit;
    g.data_offset = g.root_offset + g.root_size;
    g.total_size = (b.BPB_TotSec16.value() ? b.BPB_TotSec16.value() : b.BPB_TotSec32.value()) * unit;
    if (g.data_offset >= g.total_size) return no("FATs and root folder leave no room for clusters");
    auto clusters = (g.total_size - g.data_offset) / g.cluster_size;
    if (clusters == 0) return no("no clusters");
    if (fat32) {
        read_fat32_part(b, g);
    } else {
        g.width = clusters < 4085 ? Width::fat12 : Width::fat16;
        if (clusters > 65524) return no(fmt::format("{} clusters with 16-bit FATs", clusters));
        read_fat16_part(b, g);
    }
    // Drivers use no more clusters than the FAT has entries for.
    clusters = std::min({clusters, entries_in_fat(g), std::uint64_t{0x0FFFFFF5}});
    if (clusters == 0) return no("FATs too short for any cluster");
    g.cluster_count = static_cast<std::uint32_t>(clusters);
    if (fat32 && !g.holds(g.root_cluster))
        return no(fmt::format("root folder at cluster {}", g.root_cluster));
    return g;
}

}  // namespace undershelf::fat
