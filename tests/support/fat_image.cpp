#include "support/fat_image.hpp"

#include <algorithm>
#include <cstring>
#include <stdexcept>

#include "fat/directory.hpp"

namespace undershelf::test {

using namespace undershelf::fat;

namespace {
void put16(ByteVector& b, std::size_t at, unsigned v) {
    b[at] = static_cast<std::uint8_t>(v);
    b[at + 1] = static_cast<std::uint8_t>(v >> 8);
}
void put32(ByteVector& b, std::size_t at, std::uint32_t v) {
    put16(b, at, v & 0xFFFF);
    put16(b, at + 2, v >> 16);
}
}  // namespace

FatImage::FatImage(const FatShape& shape) {
    const bool fat32 = shape.width == Width::fat32;
    const unsigned bits = static_cast<unsigned>(shape.width);
    const std::uint32_t fat_sectors = ((shape.clusters + 2) * bits / 8 + 511) / 512 + 1;
    const std::uint32_t reserved = fat32 ? 32 : 1, root_entries = fat32 ? 0 : 512;
    const std::uint32_t total =
        reserved + 2 * fat_sectors + root_entries * 32 / 512 + shape.clusters * shape.sectors_per_cluster;
    bytes_.resize(std::size_t{total} * 512);
    bytes_[0] = 0xEB;
    bytes_[1] = 0x58;
    bytes_[2] = 0x90;
    put16(bytes_, 11, 512);
    bytes_[13] = static_cast<std::uint8_t>(shape.sectors_per_cluster);
    put16(bytes_, 14, reserved);
    bytes_[16] = 2;
    put16(bytes_, 17, root_entries);
    put32(bytes_, 32, total);
    bytes_[21] = 0xF8;
    if (fat32) {
        put32(bytes_, 36, fat_sectors);
        put32(bytes_, 44, 2);
        put16(bytes_, 48, 1);
        put16(bytes_, 50, 6);
    } else {
        put16(bytes_, 22, fat_sectors);
    }
    const std::size_t extended = fat32 ? 64 : 36;
    bytes_[extended + 2] = 0x29;
    put32(bytes_, extended + 3, 0xCA4D1E5A);
    std::memcpy(bytes_.data() + extended + 7, (shape.label + "           ").c_str(), 11);
    put16(bytes_, 510, 0xAA55);
    geometry_ = parse_boot_sector(bytes_).value();
    if (geometry_.width != shape.width)
        throw std::logic_error("the number of clusters makes another FAT width");
    if (fat32) std::copy_n(bytes_.begin(), 512, bytes_.begin() + 6 * 512);
    set_fat(0, 0x0FFFFFF8);
    set_fat(1, 0x0FFFFFFF);
    if (fat32) set_fat(2, 0x0FFFFFFF);
}

void FatImage::set_fat(Cluster c, std::uint32_t value, int copy) {
    for (int i = 0; i < 2; ++i) {
        if (copy >= 0 && i != copy) continue;
        const auto base = geometry_.fat_offset + static_cast<std::uint64_t>(i) * geometry_.fat_size;
        switch (geometry_.width) {
            case Width::fat32:
                put32(bytes_, base + c * 4, value & 0x0FFFFFFF);
                break;
            case Width::fat16:
                put16(bytes_, base + c * 2, value & 0xFFFF);
                break;
            case Width::fat12: {
                const auto at = base + c * 3 / 2;
                unsigned both = bytes_[at] | bytes_[at + 1] << 8;
                both = c % 2 ? (both & 0x000F) | (value & 0xFFF) << 4 : (both & 0xF000) | (value & 0xFFF);
                put16(bytes_, at, both);
            }
        }
    }
}

void FatImage::chain(const std::vector<Cluster>& clusters) {
    for (std::size_t i = 0; i < clusters.size(); ++i)
        set_fat(clusters[i], i + 1 < clusters.size() ? clusters[i + 1] : 0x0FFFFFFF);
}

void FatImage::fill(Cluster cluster, const std::string& content) {
    std::memcpy(bytes_.data() + cluster_offset(cluster), content.data(),
                std::min<std::size_t>(content.size(), geometry_.cluster_size));
}

std::uint64_t FatImage::free_slot(Cluster folder) {
    const auto root =
        geometry_.width == Width::fat32 ? cluster_offset(geometry_.root_cluster) : geometry_.root_offset;
    auto at = folder ? cluster_offset(folder) : root;
    while (bytes_[at] != 0) at += slot_size;
    return at;
}

std::uint64_t FatImage::add(Cluster folder, const FatSlot& s) {
    auto at = free_slot(folder);
    const auto* name = reinterpret_cast<const std::uint8_t*>(s.short_name.data());
    const auto checksum = name_checksum(name);
    const auto slots = (s.long_name.size() + 12) / 13;
    for (auto order = slots; order > 0; --order, at += slot_size) {
        auto* p = bytes_.data() + at;
        static constexpr int places[13] = {1, 3, 5, 7, 9, 14, 16, 18, 20, 22, 24, 28, 30};
        for (std::size_t i = 0; i < 13; ++i) {
            const auto n = (order - 1) * 13 + i;
            const char16_t unit = n < s.long_name.size()    ? s.long_name[n]
                                  : n == s.long_name.size() ? u'\0'
                                                            : u'\xFFFF';
            put16(bytes_, at + static_cast<std::size_t>(places[i]), unit);
        }
        p[0] = s.erased ? slot_erased
                        : static_cast<std::uint8_t>(order | (order == slots ? LAST_LONG_ENTRY : 0));
        p[11] = ATTR_LONG_NAME;
        p[13] = checksum;
    }
    auto* p = bytes_.data() + at;
    std::memcpy(p, s.short_name.data(), 11);
    if (s.erased) p[0] = slot_erased;
    p[11] = s.attr;
    put16(bytes_, at + 14, s.time);
    put16(bytes_, at + 16, s.date);
    put16(bytes_, at + 18, s.date);
    put16(bytes_, at + 20, s.start >> 16);
    put16(bytes_, at + 22, s.time);
    put16(bytes_, at + 24, s.date);
    put16(bytes_, at + 26, s.start & 0xFFFF);
    put32(bytes_, at + 28, s.size);
    return at;
}

void FatImage::make_folder(Cluster cluster, Cluster parent) {
    add(cluster, {".          ", {}, cluster, 0, ATTR_DIRECTORY});
    add(cluster, {"..         ", {}, parent, 0, ATTR_DIRECTORY});
}

std::uint64_t FatImage::put(Cluster folder, const std::string& short_name, const std::u16string& long_name,
                            const std::vector<Cluster>& clusters, const std::string& content) {
    for (std::size_t i = 0; i < clusters.size(); ++i) {
        const auto from = i * geometry_.cluster_size;
        if (from < content.size()) fill(clusters[i], content.substr(from, geometry_.cluster_size));
    }
    chain(clusters);
    return add(folder, {short_name, long_name, clusters.empty() ? 0 : clusters.front(),
                        static_cast<std::uint32_t>(content.size())});
}

void FatImage::erase(std::uint64_t at) {
    const auto entry = *load<DirEntry>(bytes_, at);
    auto c = start_cluster(entry, geometry_.width);
    bytes_[at] = slot_erased;
    for (auto back = at - slot_size; bytes_[back + 11] == ATTR_LONG_NAME; back -= slot_size)
        bytes_[back] = slot_erased;
    // Only for FAT32 chains, which is what the tests delete.
    while (geometry_.width == Width::fat32 && geometry_.holds(c)) {
        const auto where = geometry_.fat_offset + c * 4;
        const std::uint32_t next = bytes_[where] | bytes_[where + 1] << 8 | bytes_[where + 2] << 16 |
                                   static_cast<std::uint32_t>(bytes_[where + 3]) << 24;
        set_fat(c, 0);
        c = next;
    }
}

std::string sample_text(const std::string& name, std::size_t length) {
    std::string out;
    for (int line = 0; out.size() < length; ++line) out += name + ", line " + std::to_string(line) + ".\n";
    out.resize(length);
    return out;
}

}  // namespace undershelf::test
