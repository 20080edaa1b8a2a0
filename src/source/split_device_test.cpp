#include <gtest/gtest.h>

#include "base/error.hpp"
#include "source/source.hpp"
#include "support/temporary_folder.hpp"

namespace undershelf {

TEST(SplitDevice, JoinsParts) {
    const test::TemporaryFolder folder;
    const auto first = folder.write("card.001", std::string(1000, 'a'));
    folder.write("card.002", std::string(1000, 'b'));
    folder.write("card.003", std::string(10, 'c'));
    folder.write("card.txt", std::string(10, 'x'));
    const auto source = open_source(first);
    EXPECT_EQ(source->size(), 2010u);
    ByteVector out(1012);
    EXPECT_TRUE(source->read(998, out).empty());
    EXPECT_EQ(std::string(out.begin(), out.end()), "aa" + std::string(1000, 'b') + std::string(10, 'c'));
}

TEST(SplitDevice, NamesAMissingPart) {
    const test::TemporaryFolder folder;
    const auto first = folder.write("card.01", std::string(1024, 'a'));
    folder.write("card.03", std::string(1024, 'c'));
    const auto source = open_source(first);
    ASSERT_EQ(source->size(), 3072u);
    ASSERT_EQ(source->gaps().size(), 1u);
    EXPECT_NE(source->gaps()[0].why.find("card.02"), std::string::npos);
    ByteVector out(3072);
    EXPECT_EQ(source->read(0, out), (std::vector<ByteRange>{{1024, 1024}}));
    EXPECT_EQ(out[2048], 'c');
}

TEST(SplitDevice, TakesALoneFirstPartForAPlainImage) {
    const test::TemporaryFolder folder;
    const auto first = folder.write("card.001", std::string(1024, 'a'));
    EXPECT_FALSE(is_split_image(first));
    EXPECT_EQ(open_source(first)->size(), 1024u);
}

}  // namespace undershelf
