#include "seed_volumes.hpp"

#include <algorithm>
#include <cstring>

#include "ntfs/structures.hpp"
#include "support/disk_image.hpp"
#include "support/exfat_image.hpp"
#include "support/fat_image.hpp"
#include "support/formatted_card.hpp"
#include "support/heads.hpp"
#include "support/hfsplus_image.hpp"
#include "support/ntfs_image.hpp"

namespace undershelf::fuzz {

namespace {

using test::sample_text;

ByteVector fat_volume(fat::Width width, std::uint32_t clusters) {
    test::FatImage card({width, clusters});
    card.chain({4, 5});
    card.make_folder(4, 0);
    card.add(0, {"SCRIPTS    ", u"Scripts of the season", 4, 0, 0x10});
    card.put(4, "WINTER~1TXT", u"Winter play.txt", {10, 11, 14}, sample_text("winter", 1400));
    card.erase(card.put(4, "SUMMER~1TXT", u"Summer play.txt", {20, 21}, sample_text("summer", 1000)));
    card.chain({30});
    card.make_folder(30, 4);
    card.erase(card.add(4, {"OLD        ", u"Old ones", 30, 0, 0x10}));
    card.put(30, "CUES    CSV", u"", {40}, "a,b\n");
    card.make_folder(50, 4);
    card.put(50, "OWL     WAV", u"", {51}, "RIFF....WAVE");
    return card.bytes();
}

}  // namespace

std::vector<ByteVector> fat_volumes() {
    return {fat_volume(fat::Width::fat12, 300), fat_volume(fat::Width::fat16, 4200),
            fat_volume(fat::Width::fat32, 1000)};
}

std::vector<ByteVector> exfat_volumes() {
    test::exfat::Image image;
    for (const clusters::Cluster c : {10u, 20u, 22u, 24u, 30u}) image.use(c);
    image.add(test::exfat::root, {u"Scripts", 10, 4096, ~0ull, false, true});
    image.fill(20, sample_text("winter", 4096));
    image.chain({20, 22, 24});
    image.add(10, {u"Winter play, the long version.txt", 20, 10'000, 9'000, true});
    image.add(10, {u"cues.csv", 30, 300});
    image.erase(image.add(10, {u"Summer play.txt", 40, 5000}));
    image.erase(image.add(10, {u"Old ones", 50, 8192, ~0ull, false, true}));
    image.add(50, {u"owl.wav", 60, 100});
    image.chain({70, 72});
    image.erase(image.add(50, {u"thunder.wav", 70, 8000, ~0ull, true}));
    image.add(90, {u"nobody names my folder.txt", 91, 50});
    return {image.bytes};
}

std::vector<ByteVector> ntfs_volumes() {
    using namespace test::ntfs;
    using namespace undershelf::ntfs;
    constexpr std::size_t cluster = 4096;
    Image image;
    image.record(30, 1, 3,
                 {Image::times(), Image::name(5, 5, u"Scripts"),
                  non_resident(ATTR_ALLOC, {{650, 1}}, cluster, cluster, 0, 0, u"$I30")});
    image.record(31, 1, 1,
                 {Image::times(), Image::name(30, 1, u"kept.txt"), resident(ATTR_DATA, as_bytes("kept"))});
    image.record(32, 1, 1,
                 {Image::times(), Image::name(30, 1, u"long.txt"),
                  non_resident(ATTR_DATA, {{600, 1}, {-10, 3}, {0, 12}}, 60'000, 50'000),
                  resident(ATTR_DATA, as_bytes("aside"), u"notes")});
    image.record(33, 1, 1,
                 {Image::times(), Image::name(30, 1, u"packed.bin"),
                  non_resident(ATTR_DATA, {{620, 16}, {20, 3}, {0, 13}}, 32 * cluster, 32 * cluster,
                               ATTR_FLAG_COMPRESSED)});
    image.record(
        34, 2, 0,
        {Image::times(), Image::name(30, 1, u"gone.txt"), non_resident(ATTR_DATA, {{640, 2}}, 8000, 8000)});
    ByteVector block(cluster);
    std::memcpy(block.data(), "INDX", 4);
    test::put_number(block, 4, 40, 2);
    test::put_number(block, 6, 9, 2);
    test::put_number(block, 24, 40, 4);
    test::put_number(block, 28, 64, 4);
    const auto old = index_entry(901 | 1ull << 48, file_name(30, 1, u"was here.txt"));
    std::copy(old.begin(), old.end(), block.begin() + 96);
    put_fixups(block, 40);
    image.put(650 * cluster, block);
    image.put(700 * cluster, journal_record(2, 902 | 1ull << 48, 30 | 1ull << 48, u"told.txt", 0x200,
                                            133'540'000'000'000'000));
    image.record(50, 1, 1,
                 {Image::name(11, 11, u"$UsnJrnl"),
                  non_resident(ATTR_DATA, {{700, 1}}, cluster, cluster, 0, 0, u"$J")});
    return {image.bytes};
}

std::vector<ByteVector> hfsplus_volumes() {
    using namespace test::hfsplus;
    std::vector<ByteVector> out;
    for (const bool journal : {false, true}) {
        Image image(journal);
        image.fill(100, sample_text("winter", 5000));
        image.leaves(
            Image::catalogue,
            {{folder_record(20, 2, u"Scripts"), file_record({21, 20, u"winter.txt", {5000, {{100, 2}}}}),
              file_record({22,
                           20,
                           u"long.txt",
                           {40'000,
                            {{110, 1}, {112, 1}, {114, 1}, {116, 1}, {118, 1}, {120, 1}, {122, 1}, {124, 1}},
                            10}})},
             {file_record({23, 20, u"link", {}, {}, hard_link_type, hard_link_creator, 5}),
              file_record({24, 2, u"packed.txt", {}, {}, 0, 0, 0, 0x20}),
              thread_record(21, 20, u"winter.txt")}});
        image.leaves(Image::extents, {{overflow_record(22, 8, {{130, 2}})}});
        image.leaves(Image::attributes, {{attribute_record(24, u"com.apple.decmpfs", decmpfs(3, 100)),
                                          attribute_record(21, u"note", test::ntfs::as_bytes("kept"))}});
        if (journal) {
            const auto at = image.place(Image::catalogue, 1);
            image.transaction(at, node_of(-1, {file_record({40, 2, u"before.txt", {100, {{150, 1}}}})}));
        }
        out.push_back(std::move(image.bytes));
    }
    return out;
}

std::vector<ByteVector> disks() {
    const auto volume = fat_volume(fat::Width::fat12, 300);
    ByteVector mbr(512 * 2048), gpt = mbr, apple = mbr;
    test::put_mbr_entry(mbr, 0, 0, 0x01, 64, 400);
    test::put_mbr_entry(mbr, 0, 1, 0x05, 1024, 512);
    test::put_mbr_entry(mbr, 1024 * 512, 0, 0x01, 63, 400);
    test::put_volume(mbr, 64 * 512, volume);
    test::put_gpt(gpt, {{64, 600, u"scripts"}, {700, 1500, u"cues"}});
    test::put_volume(gpt, 64 * 512, volume);
    test::put_apple_map(apple, {{1, 63, "Apple", "Apple_partition_map"}, {64, 1000, "Studio", "Apple_HFS"}});
    test::put_volume(apple, 64 * 512, volume);
    return {mbr, gpt, apple};
}

std::vector<ByteVector> former_volumes() {
    std::vector<ByteVector> out{test::formatted_card().bytes()};
    for (auto& volume : fat_volumes()) {
        // The second FAT stays.
        const auto g = *fat::parse_boot_sector(Bytes(volume).first(512));
        std::fill_n(volume.begin(), g.fat_offset + g.fat_size, 0);
        out.push_back(std::move(volume));
    }
    for (auto& volume : exfat_volumes()) {
        std::fill_n(volume.begin(), 24 * 512, 0);
        out.push_back(std::move(volume));
    }
    for (auto* volumes : {ntfs_volumes, hfsplus_volumes}) {
        for (auto& volume : volumes()) {
            std::fill_n(volume.begin(), 2048, 0);
            out.push_back(std::move(volume));
        }
    }
    return out;
}

}  // namespace undershelf::fuzz
