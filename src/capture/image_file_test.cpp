#include "capture/image_file.hpp"

#include <gmock/gmock.h>
#include <gtest/gtest.h>
#include <sys/stat.h>

#include "base/error.hpp"
#include "support/temporary_folder.hpp"
#include "support/test_image.hpp"

namespace undershelf {

namespace {

using ::testing::ElementsAre;

std::uint64_t bytes_on_disk(const std::string& path) {
    struct stat s {};
    return ::stat(path.c_str(), &s) == 0 ? static_cast<std::uint64_t>(s.st_blocks) * 512 : 0;
}

}  // namespace

TEST(ImageFile, HasItsLengthFromTheStartAndHolesForZeros) {
    const test::TemporaryFolder folder;
    const auto path = folder.at("card.img");
    test::TestImage image(path, 1 << 20);
    ByteVector bytes(300'000, 0);
    bytes[0] = 1;
    bytes[299'999] = 2;
    image.write(4096, bytes);
    image.sync();
    EXPECT_EQ(std::filesystem::file_size(path), 1u << 20);
    EXPECT_LT(bytes_on_disk(path), 100'000u);
    ByteVector back(300'000);
    ASSERT_TRUE(image.read(4096, back));
    EXPECT_EQ(back, bytes);
    EXPECT_FALSE(image.read((1 << 20) - 10, MutableBytes(back).first(20)));
}

TEST(ImageFile, WritesAndReadsAcrossParts) {
    const test::TemporaryFolder folder;
    EXPECT_THAT(ImageFile::names("card.img", 2500, 1000),
                ElementsAre("card.img.001", "card.img.002", "card.img.003"));
    {
        test::TestImage image(folder.at("card.img"), 2500, 1000);
        image.write(900, ByteVector(1300, 'm'));
        image.sync();
    }
    EXPECT_EQ(test::read_file(folder.at("card.img.002")), std::string(1000, 'm'));
    EXPECT_EQ(test::read_file(folder.at("card.img.003")), std::string(200, 'm') + std::string(300, '\0'));
    test::TestImage again(folder.at("card.img"), 2500, 1000, There::must);
    ByteVector back(1302);
    ASSERT_TRUE(again.read(899, back));
    EXPECT_EQ(back.front(), 0);
    EXPECT_EQ(back[1], 'm');
    EXPECT_EQ(back[1300], 'm');
    EXPECT_EQ(back.back(), 0);
}

TEST(ImageFile, ZerosTakeTheRoomOfWhatStoodThere) {
    const test::TemporaryFolder folder;
    const auto path = folder.at("card.img");
    {
        test::TestImage image(path, 1 << 20);
        image.write(0, ByteVector(1 << 20, 'x'));
    }
    test::TestImage image(path, 1 << 20, 0, There::must);
    image.clear({0, 512 << 10});
    image.write(512 << 10, ByteVector(256 << 10, 0));
    ByteVector back(1 << 20);
    ASSERT_TRUE(image.read(0, back));
    EXPECT_TRUE(all_zero(Bytes(back).first(768 << 10)));
    EXPECT_EQ(back[768 << 10], 'x');
}

TEST(ImageFile, IsNeverWrittenOver) {
    const test::TemporaryFolder folder;
    const auto path = folder.write("card.img", std::string("somebody's"));
    EXPECT_THROW(test::TestImage(path, 1000), Error);
    EXPECT_EQ(test::read_file(path), "somebody's");
}

TEST(ImageFile, OnlyOneCaptureHasIt) {
    const test::TemporaryFolder folder;
    const test::TestImage image(folder.at("card.img"), 1000);
    EXPECT_THROW(test::TestImage(folder.at("card.img"), 1000, 0, There::must), Error);
}

TEST(ImageFile, KnowsWhereItWasCutOff) {
    const test::TemporaryFolder folder;
    { const test::TestImage image(folder.at("card.img"), 2500, 1000); }
    std::filesystem::resize_file(folder.at("card.img.002"), 300);
    const test::TestImage image(folder.at("card.img"), 2500, 1000, There::must);
    EXPECT_EQ(image.was_long(), 1300u);
    EXPECT_EQ(std::filesystem::file_size(folder.at("card.img.002")), 1000u);
}

}  // namespace undershelf
