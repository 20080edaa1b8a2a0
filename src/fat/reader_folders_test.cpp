// Deleted folders of several clusters: their chains are gone from the FAT.

#include <fmt/format.h>
#include <gtest/gtest.h>

#include "fat/directory.hpp"
#include "fat/file_system.hpp"
#include "support/fat_image.hpp"
#include "support/memory_device.hpp"
#include "support/read_volume.hpp"
#include "support/traces.hpp"

namespace undershelf::fat {

namespace {

constexpr std::size_t slots_in_a_cluster = 512 / 32;

test::FatSlot photo(const std::string& name, int number, Cluster start) {
    return {.short_name = fmt::format("{}{:05}JPG", name, number),
            .start = start,
            .size = 300,
            .date = 0x5A64,
            .time = static_cast<std::uint16_t>(0x5000 + number / 30 * 32 + number % 30),
            .erased = true};
}

/// A second cluster has no '.' and '..'.
void put_behind(test::FatImage& image, Cluster folder, Cluster cluster, const test::FatSlot& slot,
                std::size_t at) {
    // Slots are put where a folder's own cluster has them, and moved.
    const auto from = image.add(folder, slot);
    auto& bytes = image.bytes();
    const auto to = image.cluster_offset(cluster) + at * 32;
    std::copy_n(bytes.begin() + static_cast<std::ptrdiff_t>(from), 32,
                bytes.begin() + static_cast<std::ptrdiff_t>(to));
    std::fill_n(bytes.begin() + static_cast<std::ptrdiff_t>(from), 32, std::uint8_t{0});
}

}  // namespace

TEST(FatFolders, ThatWereFilledInTurnsAreToldApartByTheirNumbers) {
    test::FatImage image;
    constexpr auto in_the_first = static_cast<int>(slots_in_a_cluster) - 2;
    Cluster next = 52;
    const Cluster fox = 50, owl = 51, spare = 1000;
    image.make_folder(fox, 0);
    image.make_folder(owl, 0);
    image.make_folder(spare, 0);
    Cluster fox_more = 0, owl_more = 0;
    for (int i = 0; i < in_the_first + 5; ++i) {
        // Both need a new cluster at the same time; the one that comes second in the root has the first.
        if (i == in_the_first) owl_more = next++, fox_more = next++;
        const auto put = [&](Cluster first, Cluster more, const test::FatSlot& slot) {
            if (i < in_the_first) {
                image.add(first, slot);
            } else {
                put_behind(image, spare, more, slot, static_cast<std::size_t>(i - in_the_first));
            }
        };
        put(fox, fox_more, photo("FOX", 2 * i, next++));
        put(owl, owl_more, photo("OWL", 2 * i + 1, next++));
    }
    for (std::size_t i = 0; i < 64; ++i) image.bytes()[image.cluster_offset(spare) + i] = 0;
    image.add(0, {.short_name = "FOX        ", .start = fox, .attr = 0x10, .erased = true});
    image.add(0, {.short_name = "OWL        ", .start = owl, .attr = 0x10, .erased = true});
    const auto seen = test::read_volume(file_system(), image.bytes());
    EXPECT_EQ(seen.count_in("_OX", "OX000"), in_the_first + 5);
    EXPECT_EQ(seen.count_in("_WL", "WL000"), in_the_first + 5);
}

TEST(FatFolders, GoOnWhereALongNameFitsTheShortOne) {
    test::FatImage image, names;
    image.make_folder(50, 0);
    for (int i = 0; i + 3 < static_cast<int>(slots_in_a_cluster); ++i)
        image.add(50, photo("FOX", i, static_cast<Cluster>(300 + i)));
    // The long name is in the first cluster, its short entry in another one.
    const auto slot = names.add(
        0,
        {.short_name = "EPILOG~1TXT", .long_name = u"epilogue.txt", .start = 200, .size = 5, .erased = true});
    const auto put = [&](std::uint64_t from, std::uint64_t to) {
        std::copy_n(names.bytes().begin() + static_cast<std::ptrdiff_t>(from), 32,
                    image.bytes().begin() + static_cast<std::ptrdiff_t>(to));
    };
    put(slot - 32, image.cluster_offset(50) + 512 - 32);
    put(slot, image.cluster_offset(70));
    // A short entry with which a letter comes out as well, but not the one with which the long name begins.
    auto* other = names.bytes().data() + slot;
    const auto checksum = names.bytes()[slot - 32 + 13];
    for (other[7] = '2'; !std::isupper(solve_first_byte(other, checksum)); ++other[7]) {
    }
    ASSERT_NE(solve_first_byte(other, checksum), 'E');
    put(slot, image.cluster_offset(60));
    image.add(0, {.short_name = "MASKS      ", .start = 50, .attr = 0x10, .erased = true});
    const auto seen = test::read_volume(file_system(), image.bytes());
    ASSERT_TRUE(seen.find("epilogue.txt") && seen.find("_ASKS"));
    EXPECT_EQ(seen.find("epilogue.txt")->parent, seen.find("_ASKS")->key);
    EXPECT_EQ(seen.find("_ASKS")->claims.back().offset, image.cluster_offset(70));
}

TEST(FatFolders, DoNotGoOnFarAwayByAFewBits) {
    // The first cluster ends in a long name whose short entry is lost. Far away, after more folders than are
    // looked through, one begins that has the same checksum by chance.
    test::FatImage image, names;
    image.make_folder(50, 0);
    for (int i = 0; i + 3 < static_cast<int>(slots_in_a_cluster); ++i)
        image.add(50, photo("FOX", i, static_cast<Cluster>(1000 + i)));
    const auto slot = names.add(
        0,
        {.short_name = "EPILOG~1TXT", .long_name = u"epilogue.txt", .start = 200, .size = 5, .erased = true});
    const auto put = [&](std::uint64_t from, std::uint64_t to) {
        std::copy_n(names.bytes().begin() + static_cast<std::ptrdiff_t>(from), 32,
                    image.bytes().begin() + static_cast<std::ptrdiff_t>(to));
    };
    put(slot - 32, image.cluster_offset(50) + 512 - 32);
    for (Cluster c = 100; c < 180; ++c) {
        put(slot, image.cluster_offset(c));
        image.bytes()[image.cluster_offset(c) + 1] = 'X';  // not under this checksum
    }
    put(slot, image.cluster_offset(300));
    image.add(0, {.short_name = "MASKS      ", .start = 50, .attr = 0x10, .erased = true});
    const auto seen = test::read_volume(file_system(), image.bytes());
    ASSERT_TRUE(seen.find("_ASKS"));
    EXPECT_EQ(total_length(seen.find("_ASKS")->claims), 512u);
}

TEST(FatFolders, OfALargeVolumeAreLookedForWhereTheyGoOn) {
    test::FatImage image;
    constexpr auto in_the_first = static_cast<int>(slots_in_a_cluster) - 2;
    const Cluster first = 50, more = 51 + in_the_first, alone = 700, spare = 1000;
    for (const auto folder : {first, alone, spare}) image.make_folder(folder, 0);
    for (int i = 0; i < in_the_first; ++i) image.add(first, photo("FOX", i, static_cast<Cluster>(51 + i)));
    put_behind(image, spare, more, photo("FOX", in_the_first, more + 1), 0);
    image.add(alone, photo("OWL", 1, alone + 1));
    for (std::size_t i = 0; i < 64; ++i) image.bytes()[image.cluster_offset(spare) + i] = 0;
    image.add(0, {.short_name = "MASKS      ", .start = first, .attr = 0x10, .erased = true});
    const auto source = test::memory_source(image.bytes());
    ReadOptions options;
    options.search_bytes = 0;
    PresentLife life{file_system().recognise(*source, 0)->volume, 1};
    EXPECT_TRUE(file_system().is_searched_in_part(life.volume, options));
    const auto read_with = [&](const std::vector<std::uint64_t>& found) {
        test::Collector out;
        Progress progress;
        const auto reader = file_system().open(*source, life.volume, NoTraces(), options);
        reader->expect_folders(found);
        reader->read(out, progress);
        return out;
    };
    auto seen = read_with({});
    EXPECT_EQ(seen.count_in("_ASKS", "OX000"), in_the_first + 1);
    EXPECT_FALSE(seen.find("folder-700"));
    // What a sweep finds tells of the other one.
    const test::Traces traces(file_system(), image.bytes());
    const auto lost = file_system().lost_folders(*source, life, traces, options);
    EXPECT_EQ(lost, (std::vector<std::uint64_t>{image.cluster_offset(2), image.cluster_offset(first),
                                                image.cluster_offset(more), image.cluster_offset(alone)}));
    seen = read_with(lost);
    EXPECT_EQ(seen.count_in("_ASKS", "OX000"), in_the_first + 1);
    EXPECT_EQ(seen.count_in("folder-700", "WL000"), 1);
    life.oldest = std::numeric_limits<std::int64_t>::max();
    EXPECT_TRUE(file_system().lost_folders(*source, life, traces, options).empty()) << "all is older";
}

}  // namespace undershelf::fat
