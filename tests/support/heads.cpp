#include "support/heads.hpp"

#include <algorithm>
#include <cstring>

#include "support/disk_image.hpp"

namespace undershelf::test {

namespace {
constexpr std::size_t size = 4 << 20;
constexpr char16_t label[] = u"CUES";
}  // namespace

ByteVector exfat_head() {
    ByteVector b(size);
    std::memcpy(b.data(),
                "\xEB\x76\x90"
                "EXFAT   ",
                11);
    put_number(b, 72, size / 512, 8);
    put_number(b, 80, 24, 4);    // FatOffset
    put_number(b, 84, 8, 4);     // FatLength
    put_number(b, 88, 64, 4);    // ClusterHeapOffset
    put_number(b, 92, 1000, 4);  // ClusterCount
    put_number(b, 96, 4, 4);     // FirstClusterOfRootDirectory
    put_number(b, 100, 0x1A2B3C4D, 4);
    b[108] = 9;
    b[109] = 3;
    b[110] = 1;
    put_number(b, 510, 0xAA55, 2);
    std::uint32_t sum = 0;
    for (std::size_t i = 0; i < 11 * 512; ++i) {
        if (i != 106 && i != 107 && i != 112) sum = (sum << 31 | sum >> 1) + b[i];
    }
    for (std::size_t i = 0; i < 128; ++i) put_number(b, 11 * 512 + i * 4, sum, 4);
    std::copy_n(b.begin(), 12 * 512, b.begin() + 12 * 512);
    put_number(b, 24 * 512, 0xFFFFFFF8, 4);
    put_number(b, 24 * 512 + 4, 0xFFFFFFFF, 4);
    const std::size_t heap = 64 * 512, root = heap + 2 * 4096;
    b[root] = 0x83;
    b[root + 1] = 4;
    for (std::size_t i = 0; i < 4; ++i) put_number(b, root + 2 + i * 2, label[i], 2);
    b[root + 32] = 0x81;
    put_number(b, root + 52, 2, 4);
    put_number(b, root + 56, 125, 8);
    b[heap] = 0x0F;  // four clusters in use
    return b;
}

ByteVector ntfs_head() {
    ByteVector b(size);
    std::memcpy(b.data(), "\xEB\x52\x90NTFS    ", 11);
    put_number(b, 11, 512, 2);
    b[13] = 8;
    put_number(b, 40, size / 512 - 1, 8);
    put_number(b, 48, 4, 8);    // $MFT
    put_number(b, 56, 500, 8);  // $MFTMirr
    b[64] = 0xF6;               // records of 1024 bytes
    b[68] = 1;
    put_number(b, 72, 0x0123456789ABCDEF, 8);
    put_number(b, 510, 0xAA55, 2);
    std::copy_n(b.begin(), 512, b.end() - 512);
    for (const std::size_t table : {4 * 4096u, 500 * 4096u}) {
        for (std::size_t n = 0; n < 4; ++n) {
            const auto at = table + n * 1024;
            std::memcpy(b.data() + at, "FILE", 4);
            put_number(b, at + 4, 48, 2);  // update sequence array
            put_number(b, at + 6, 3, 2);
            put_number(b, at + 20, 56, 2);
            put_number(b, at + 48, 0x0707, 2);
            put_number(b, at + 510, 0x0707, 2);
            put_number(b, at + 1022, 0x0707, 2);
            auto attribute = at + 56;
            if (n == 3) {
                put_number(b, attribute, 0x60, 4);  // $VOLUME_NAME
                put_number(b, attribute + 4, 32, 4);
                put_number(b, attribute + 16, 8, 4);
                put_number(b, attribute + 20, 24, 2);
                for (std::size_t i = 0; i < 4; ++i) put_number(b, attribute + 24 + i * 2, label[i], 2);
                attribute += 32;
            }
            put_number(b, attribute, 0xFFFFFFFF, 4);
        }
    }
    return b;
}

ByteVector hfsplus_head() {
    ByteVector b(size);
    const std::size_t h = 1024;
    const auto big = [&](std::size_t at, std::uint64_t value, int bytes) {
        put_number(b, at, value, bytes, true);
    };
    big(h, 0x482B, 2);
    big(h + 2, 4, 2);
    big(h + 40, 4096, 4);
    big(h + 44, size / 4096, 4);
    big(h + 48, 1000, 4);
    const std::size_t catalogue = h + 112 + 2 * 80;
    big(catalogue, 8192, 8);
    big(catalogue + 12, 2, 4);
    big(catalogue + 16, 10, 4);
    big(catalogue + 20, 2, 4);
    std::copy_n(b.begin() + 1024, 512, b.end() - 1024);
    const std::size_t node = 10 * 4096;
    b[node + 8] = 1;            // header node
    big(node + 14 + 10, 1, 4);  // firstLeafNode
    big(node + 14 + 18, 4096, 2);
    const std::size_t leaf = node + 4096;
    b[leaf + 8] = 0xFF;
    b[leaf + 9] = 1;
    big(leaf + 14, 14, 2);
    big(leaf + 16, 1, 4);
    big(leaf + 20, 4, 2);
    for (std::size_t i = 0; i < 4; ++i) big(leaf + 22 + i * 2, label[i], 2);
    return b;
}

}  // namespace undershelf::test
