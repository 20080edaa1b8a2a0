#pragma once
// exFAT volumes for tests, written byte by byte after the specification: sets, chains and contents in a
// volume of 1000 clusters.

#include <map>
#include <string>
#include <vector>

#include "clusters/grid.hpp"
#include "exfat/entry_set.hpp"
#include "support/disk_image.hpp"
#include "support/heads.hpp"

namespace undershelf::test::exfat {

using clusters::Cluster;

constexpr std::size_t heap = 64 * 512, cluster_size = 4096, root = 4;

struct SetShape {
    std::u16string name;
    Cluster start = 0;
    std::uint64_t size = 0;
    std::uint64_t valid = ~0ull;
    bool chained = false;
    bool folder = false;
    std::uint32_t created = 0x5A645000;  ///< 2025-03-04 10:00
};

/// A volume of 1000 clusters that sets, chains and contents are put into.
class Image {
  public:
    Image() : bytes(exfat_head()) { free_slot_[root] = 2; }

    std::size_t place(Cluster c) const { return heap + (c - 2) * cluster_size; }
    void use(Cluster c, bool used = true) {
        auto& byte = bytes[heap + (c - 2) / 8];
        const auto bit = static_cast<std::uint8_t>(1u << (c - 2) % 8);
        byte = static_cast<std::uint8_t>(used ? byte | bit : byte & ~bit);
    }
    void chain(const std::vector<Cluster>& clusters) {
        for (std::size_t i = 0; i < clusters.size(); ++i)
            put_number(bytes, 24 * 512 + clusters[i] * 4u,
                       i + 1 < clusters.size() ? clusters[i + 1] : 0xFFFFFFFF, 4);
    }
    void fill(Cluster c, const std::string& content) {
        std::copy(content.begin(), content.end(), bytes.begin() + static_cast<std::ptrdiff_t>(place(c)));
    }

    /// Writes a set into a folder; returns where it is.
    std::size_t add(Cluster folder, const SetShape& s) {
        const auto names = (s.name.size() + 14) / 15;
        ByteVector set((2 + names) * 32);
        set[0] = 0x85;
        set[1] = static_cast<std::uint8_t>(1 + names);
        put_number(set, 4, s.folder ? 0x10 : 0x20, 2);
        for (const std::size_t at : {8, 12, 16}) put_number(set, at, s.created, 4);
        for (const std::size_t at : {22, 23, 24}) set[at] = 0x84;  // one hour east of UTC
        set[32] = 0xC0;
        set[33] = static_cast<std::uint8_t>(s.chained ? 1 : 3);
        set[35] = static_cast<std::uint8_t>(s.name.size());
        put_number(set, 36, undershelf::exfat::name_hash(s.name), 2);
        put_number(set, 40, std::min(s.valid, s.size), 8);
        put_number(set, 52, s.start, 4);
        put_number(set, 56, s.size, 8);
        for (std::size_t i = 0; i < s.name.size(); ++i)
            put_number(set, 64 + i / 15 * 32 + 2 + i % 15 * 2, s.name[i], 2);
        for (std::size_t i = 0; i < names; ++i) set[64 + i * 32] = 0xC1;
        put_number(set, 2, undershelf::exfat::set_checksum(set), 2);
        const auto at = place(folder) + free_slot_[folder] * 32;
        std::copy(set.begin(), set.end(), bytes.begin() + static_cast<std::ptrdiff_t>(at));
        free_slot_[folder] += set.size() / 32;
        return at;
    }
    void erase(std::size_t at, std::size_t slots = 3) {
        for (std::size_t i = 0; i < slots; ++i) bytes[at + i * 32] &= 0x7F;
    }

    ByteVector bytes;

  private:
    std::map<Cluster, std::size_t> free_slot_;
};

}  // namespace undershelf::test::exfat
