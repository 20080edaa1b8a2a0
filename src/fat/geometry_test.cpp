#include "fat/geometry.hpp"

#include <gtest/gtest.h>

#include <random>

#include "support/fat_image.hpp"

namespace undershelf::fat {

TEST(FatGeometry, TellsTheWidths) {
    for (const auto& [width, clusters] : {std::pair{Width::fat12, 2000u},
                                          {Width::fat16, 5000u},
                                          {Width::fat32, 2000u},
                                          {Width::fat32, 70000u}}) {
        const test::FatImage image({width, clusters});
        EXPECT_EQ(image.geometry().width, width);
        EXPECT_EQ(image.geometry().cluster_count, clusters);
        EXPECT_EQ(image.geometry().total_size, const_cast<test::FatImage&>(image).bytes().size());
    }
}

TEST(FatGeometry, SaysWhatIsImpossible) {
    struct Case {
        std::size_t at;
        std::uint8_t value;
        const char* word;
    };
    for (const auto& c : {Case{12, 0x09, "bytes per sector"},
                          {13, 3, "sectors per cluster"},
                          {13, 0, "sectors per cluster"},
                          {16, 9, "FATs"},
                          {16, 0, "FATs"},
                          {21, 0x11, "media"},
                          {47, 0x0F, "root folder"}}) {
        test::FatImage image;
        image.bytes()[c.at] = c.value;
        std::string why;
        EXPECT_FALSE(parse_boot_sector(image.bytes(), &why)) << c.at;
        EXPECT_NE(why.find(c.word), std::string::npos) << why;
    }
    EXPECT_FALSE(parse_boot_sector(ByteVector(511)));
    // Neither count of sectors, and neither length of FATs, and no reserved sectors.
    for (const auto& [fields, word] : {std::pair{std::vector{19, 20, 32, 33, 34, 35}, "sectors at all"},
                                       {std::vector{22, 23, 36, 37, 38, 39}, "without length"},
                                       {std::vector{14, 15}, "reserved"}}) {
        test::FatImage image;
        for (const int at : fields) image.bytes()[static_cast<std::size_t>(at)] = 0;
        std::string why;
        EXPECT_FALSE(parse_boot_sector(image.bytes(), &why)) << word;
        EXPECT_NE(why.find(word), std::string::npos) << why;
    }
    EXPECT_FALSE(parse_boot_sector(ByteVector(512)));
}

TEST(FatGeometry, TakesEitherCountOfSectors) {
    test::FatImage image({Width::fat16, 5000});
    auto& b = image.bytes();
    const auto sectors = b.size() / 512;
    ASSERT_LT(sectors, 0x10000u);
    for (const bool small : {true, false}) {
        for (std::size_t i = 0; i < 4; ++i) {
            if (i < 2) b[19 + i] = small ? static_cast<std::uint8_t>(sectors >> 8 * i) : 0;  // BPB_TotSec16
            b[32 + i] = small ? 0 : static_cast<std::uint8_t>(sectors >> 8 * i);             // BPB_TotSec32
        }
        const auto g = parse_boot_sector(b);
        ASSERT_TRUE(g);
        EXPECT_EQ(g->total_size, b.size());
        EXPECT_EQ(g->cluster_count, 5000u);
    }
}

TEST(FatGeometry, SurvivesAnyBytes) {
    std::mt19937 random(7);
    test::FatImage image;
    for (int round = 0; round < 20'000; ++round) {
        ByteVector sector(image.bytes().begin(), image.bytes().begin() + 512);
        for (int i = 0; i < 6; ++i) sector[random() % 64] = static_cast<std::uint8_t>(random());
        if (const auto g = parse_boot_sector(sector)) {
            EXPECT_GT(g->cluster_count, 0u);
            EXPECT_LT(g->data_offset, g->total_size);
        }
    }
}

}  // namespace undershelf::fat
