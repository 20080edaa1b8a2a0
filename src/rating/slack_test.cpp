#include "rating/slack.hpp"

#include <gtest/gtest.h>

#include "support/memory_device.hpp"

namespace undershelf {

namespace {

/// Two KiB of text, with zeros from byte 1100 to the end of that sector.
std::unique_ptr<Source> stage() {
    ByteVector bytes(2048, 'x');
    std::fill(bytes.begin() + 1100, bytes.begin() + 1536, 0);
    return test::memory_source(bytes);
}
std::vector<Piece> at(std::uint64_t source, std::uint64_t length) {
    Piece p;
    p.source = source;
    p.length = length;
    return {p};
}

}  // namespace

TEST(Slack, IsWhatStandsBehindTheEndInItsSector) {
    const auto source = stage();
    EXPECT_TRUE(file_end(*source, at(512, 588), 588)->zeros_behind);
    EXPECT_FALSE(file_end(*source, at(512, 580), 580)->zeros_behind);  // some of its own follow
    EXPECT_FALSE(file_end(*source, at(0, 300), 300)->zeros_behind);
    // A piece may be allocated beyond the end.
    EXPECT_TRUE(file_end(*source, at(512, 1024), 588)->zeros_behind);
}

TEST(Slack, TellsNothingWhereThereIsNone) {
    const auto source = stage();
    EXPECT_FALSE(file_end(*source, at(512, 512), 512));  // ends with its sector
    EXPECT_FALSE(file_end(*source, at(512, 508), 508));  // nearly so
    EXPECT_FALSE(file_end(*source, at(512, 700), 700));  // its end is zeros itself
    EXPECT_FALSE(file_end(*source, {}, 100));
    EXPECT_FALSE(file_end(*source, at(0, 100), 0));
    EXPECT_FALSE(file_end(*source, at(0, 100), 300));           // its end is missing
    EXPECT_FALSE(file_end(*source, at(4096, 100), 100));        // after the source
    EXPECT_FALSE(file_end(*source, at(~0ull - 50, 100), 100));  // as a hostile record may say
    auto packed = at(512, 588);
    packed[0].kind = PieceKind::packed;
    EXPECT_FALSE(file_end(*source, packed, 588));
    const auto bad = test::memory_source(ByteVector(2048, 'x'), RangeSet({{1024, 512}}));
    EXPECT_FALSE(file_end(*bad, at(512, 588), 588));
}

TEST(Slack, IsAHabitOfAnExtensionElseOfTheVolume) {
    int looks = 0;
    SlackHabits habits([&](std::int64_t entry) -> std::optional<FileEnd> {
        ++looks;
        if (entry >= 900) return std::nullopt;
        return FileEnd{entry < 100};
    });
    for (int i = 0; i < 40; ++i) habits.add(1, "wav", i);
    for (int i = 0; i < 3; ++i) habits.add(1, "txt", 200 + i);
    for (int i = 0; i < 10; ++i) habits.add(1, "raw", 900 + i);
    for (int i = 0; i < 6; ++i) habits.add(1, "jpg", 100 + i);
    EXPECT_EQ(habits.of(1, "wav").zeros, 32u) << "no more are looked at";
    EXPECT_GT(habits.of(1, "wav").share(), 0.98);
    EXPECT_EQ(habits.of(1, "jpg").zeros, 0u);
    EXPECT_LT(habits.of(1, "jpg").share(), 0.1);
    // Too few, none that tell, or none at all: those of the whole volume.
    for (const auto* ext : {"txt", "raw", "pdf"}) EXPECT_EQ(habits.of(1, ext).files, 32u) << ext;
    EXPECT_EQ(habits.of(2, "wav").files, 0u);
    const auto before = looks;
    habits.of(1, "wav");
    EXPECT_EQ(looks, before);
}

}  // namespace undershelf
