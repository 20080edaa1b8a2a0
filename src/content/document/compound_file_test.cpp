#include "content/document/compound_file.hpp"

#include <gtest/gtest.h>

#include "support/file_parts.hpp"
#include "support/memory_content.hpp"

namespace undershelf::content {

namespace {

using test::MemoryContent;

ByteVector two_streams() {
    return test::compound_file({{"Prompt", test::libretto(5000)}, {"Ledger", test::libretto(6000)}});
}

/// Where the table's entry for a sector is.
std::size_t table_at(std::size_t sector) {
    return 512 + sector * 4;
}

bool holds(const ByteVector& bytes) {
    MemoryContent content(bytes);
    try {
        CompoundFile file(content);
        return true;
    } catch (const CompoundWrong& wrong) {
        EXPECT_LE(wrong.at, bytes.size());
        return false;
    }
}

}  // namespace

TEST(CompoundFile, GivesStreamsAndTheirBytes) {
    const auto bytes = two_streams();
    MemoryContent content(bytes);
    const CompoundFile file(content);
    ASSERT_EQ(file.streams().size(), 2u);
    const auto* ledger = file.stream("Ledger", 0);
    ASSERT_NE(ledger, nullptr);
    EXPECT_EQ(file.stream("Ledger", 1), nullptr);
    EXPECT_EQ(file.end(), bytes.size());
    CompoundStreamContent stream(content, file, *ledger);
    ByteVector read(6000);
    EXPECT_EQ(stream.read(0, read), 6000u);
    EXPECT_EQ(read, test::libretto(6000));
    EXPECT_EQ(stream.place_of(513), file.offset_of(ledger->start + 1) + 1);
    ByteVector behind(10);
    EXPECT_EQ(stream.read(5995, behind), 5u);
}

TEST(CompoundFile, SmallStreamsStandInSectorsOfOthers) {
    const auto bytes = test::compound_file(
        {{"One", test::libretto(100)}, {"Two", test::libretto(5000)}, {"Three", test::libretto(700)}});
    MemoryContent content(bytes);
    const CompoundFile file(content);
    const auto* three = file.stream("Three", 0);
    ASSERT_NE(three, nullptr);
    EXPECT_TRUE(file.is_small(*three));
    EXPECT_EQ(file.read_small(*three), test::libretto(700));
    EXPECT_EQ(file.read_small(*file.stream("One", 0)), test::libretto(100));
}

TEST(CompoundFile, ChainsThatMeetAreWrong) {
    auto bytes = two_streams();
    ASSERT_TRUE(holds(bytes));
    // The first stream goes on in the second one's sectors.
    test::put_number(bytes, table_at(13), 14, 4);
    EXPECT_FALSE(holds(bytes));
}

TEST(CompoundFile, ChainsThatGoRoundEnd) {
    auto bytes = two_streams();
    test::put_number(bytes, table_at(6), 5, 4);
    EXPECT_FALSE(holds(bytes));
}

TEST(CompoundFile, ChainsThatEndEarlyAreWrong) {
    auto bytes = two_streams();
    test::put_number(bytes, table_at(7), 0xFFFFFFFE, 4);
    EXPECT_FALSE(holds(bytes));
}

TEST(CompoundFile, ATableThatClaimsMoreThanThereIsIsRefused) {
    auto bytes = two_streams();
    test::put_number(bytes, 44, 0x00FFFFFF, 4);
    EXPECT_FALSE(holds(bytes));
    bytes = two_streams();
    test::put_number(bytes, table_at(100), 0x00FFFFFF, 4);
    EXPECT_FALSE(holds(bytes));
}

TEST(CompoundFile, ADirectoryThatLeadsInCirclesIsWalkedOnce) {
    auto bytes = two_streams();
    // The root's child has the root as its sibling.
    test::put_number(bytes, 512 * 2 + 128 + 68, 0, 4);
    EXPECT_TRUE(holds(bytes));
}

TEST(CompoundFile, TheLastSectorMayEndWithItsStream) {
    auto bytes = two_streams();
    bytes.resize(bytes.size() - 100);
    EXPECT_TRUE(holds(bytes));
    bytes.resize(bytes.size() - 400);
    EXPECT_FALSE(holds(bytes));
}

}  // namespace undershelf::content
