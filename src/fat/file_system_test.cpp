#include "fat/file_system.hpp"

#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <cstring>

#include "support/fat_image.hpp"
#include "support/memory_device.hpp"

namespace undershelf::fat {

namespace {
using ::testing::ElementsAre;
using ::testing::HasSubstr;
using ::testing::IsEmpty;

constexpr std::size_t boot_label_at = 64 + 7;  // BS_VolLab of a FAT32 boot sector

Recognition recognised(const ByteVector& bytes, const ReadOptions& options = {}) {
    return file_system().recognise(*test::memory_source(bytes), 0, options).value();
}

test::FatImage labelled(const std::string& in_root, const std::string& in_boot) {
    test::FatImage image({.label = in_boot});
    if (!in_root.empty()) image.add(0, {.short_name = in_root, .attr = ATTR_VOLUME_ID});
    return image;
}
}  // namespace

TEST(FatFileSystem, TakesTheRootFoldersLabel) {
    auto image = labelled("CANDLEWICK ", "CANDLEWICK");
    const auto same = recognised(image.bytes());
    EXPECT_EQ(same.volume.label, "CANDLEWICK");
    EXPECT_THAT(same.remarks, IsEmpty());

    auto relabelled = labelled("PROPS 2025 ", "CANDLEWICK");
    const auto seen = recognised(relabelled.bytes());
    EXPECT_EQ(seen.volume.label, "PROPS 2025");
    EXPECT_THAT(seen.remarks, ElementsAre(HasSubstr("boot sector says its label is “CANDLEWICK”; drivers "
                                                    "show the root folder's, “PROPS 2025”")));
}

TEST(FatFileSystem, HasNoLabelWithoutAnEntryForIt) {
    auto image = labelled("", "CANDLEWICK");
    const auto seen = recognised(image.bytes());
    EXPECT_EQ(seen.volume.label, "");
    EXPECT_THAT(seen.remarks, ElementsAre(HasSubstr("“CANDLEWICK”; the root folder has none")));

    auto unnamed = labelled("", "NO NAME");
    EXPECT_THAT(recognised(unnamed.bytes()).remarks, IsEmpty());
    // An erased label is none any more.
    auto removed = labelled("CANDLEWICK ", "NO NAME");
    removed.bytes()[removed.cluster_offset(2)] = slot_erased;
    EXPECT_EQ(recognised(removed.bytes()).volume.label, "");
}

TEST(FatFileSystem, DecodesLabelsByTheCodePage) {
    // 0x8E is Ä in code page 437 and О in 866; NULs are padding, and what is after them is left over.
    auto image = labelled(std::string("\x8EPFEL\0\0 XY\0", 11), "");
    std::memcpy(image.bytes().data() + boot_label_at, "\x8ERGER\0\0\0\0\0\0", 11);
    const auto western = recognised(image.bytes());
    EXPECT_EQ(western.volume.label, "ÄPFEL");
    EXPECT_THAT(western.remarks, ElementsAre(HasSubstr("“ÄRGER”")));
    EXPECT_EQ(recognised(image.bytes(), {.code_page = "866", .zone_minutes = {}}).volume.label, "ОPFEL");
}

}  // namespace undershelf::fat
