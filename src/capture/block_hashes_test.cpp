#include "capture/block_hashes.hpp"

#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include "base/sha256.hpp"
#include "support/temporary_folder.hpp"
#include "support/test_image.hpp"

namespace undershelf {

namespace {

using ::testing::HasSubstr;
using ::testing::Not;
using State = CoverageState;

constexpr auto block = BlockHashes::block_size;

/// The file as it is now.
std::string saved(BlockHashes& hashes) {
    hashes.save();
    return test::read_file(hashes.path());
}

std::string hash_of(Bytes bytes) {
    Sha256 h;
    h.add(bytes);
    return h.hex();
}

class Hashes : public ::testing::Test {
  protected:
    /// Two blocks and a half.
    static constexpr std::uint64_t size = 2 * block + 1000;
    test::TemporaryFolder folder;
    test::TestImage image{folder.at("card.img"), size};
    Coverage coverage{size};
};

}  // namespace

TEST_F(Hashes, AreOfWholeBlocksOnceTheyAreThere) {
    BlockHashes hashes(image, test::replaced(folder.at("blocks.csv")));
    const ByteVector bytes(1000, 'm');
    image.write(2 * block, bytes);
    coverage.set({2 * block, 1000}, State::copied);
    hashes.look({2 * block, 1000}, coverage);
    coverage.set({block, block}, State::zeros);
    hashes.look_at_rest(coverage);
    hashes.wait();
    const auto text = saved(hashes);
    EXPECT_THAT(text, HasSubstr("134217728,1000," + hash_of(bytes) + ",0\n"));
    EXPECT_THAT(text, HasSubstr("67108864,67108864," + hash_of(ByteVector(block)) + ",0\n"));
    EXPECT_THAT(text, Not(HasSubstr("\n0,67108864")));
    std::filesystem::remove(folder.at("blocks.csv"));
    hashes.save();
    EXPECT_FALSE(std::filesystem::exists(folder.at("blocks.csv"))) << "nothing has changed since";
}

TEST_F(Hashes, SayHowMuchOfABlockCouldNotBeRead) {
    BlockHashes hashes(image, test::replaced(folder.at("blocks.csv")));
    coverage.set({2 * block, 500}, State::unreadable);
    coverage.set({2 * block + 500, 500}, State::zeros);
    hashes.look_at_rest(coverage);
    hashes.wait();
    EXPECT_THAT(saved(hashes), HasSubstr(hash_of(ByteVector(1000)) + ",500\n"));
}

TEST(BlockHashes, ManyBlocksSideBySideHaveEachTheirOwn) {
    const test::TemporaryFolder folder;
    constexpr std::uint64_t blocks = 10;
    test::TestImage image(folder.at("card.img"), blocks * block);
    Coverage coverage(blocks * block);
    BlockHashes hashes(image, test::replaced(folder.at("blocks.csv")));
    for (std::uint64_t i = 0; i < blocks; ++i) {
        image.write(i * block + 4096 * i, ByteVector(4096, static_cast<std::uint8_t>(i + 1)));
        coverage.set({i * block, block}, State::copied);
        hashes.look({i * block, block}, coverage);
    }
    hashes.look_at_rest(coverage);
    hashes.wait();
    const auto text = saved(hashes);
    for (const std::uint64_t i : {0, 7, 9}) {
        ByteVector bytes(block);
        ASSERT_TRUE(image.read(i * block, bytes));
        EXPECT_THAT(text, HasSubstr(std::to_string(i * block) + ",67108864," + hash_of(bytes) + ",0\n"));
    }
}

TEST_F(Hashes, AreTakenUpAndForgottenWhereBytesChange) {
    const auto path = folder.at("card.img.blocks.csv");
    const std::string stale(64, 'a');
    test::replaced(path).write("offset,length,sha256,unreadable\n0,67108864," + stale +
                               ",0\n134217728,1000," + stale + ",0\n5,1000," + stale +
                               ",0\n67108864,67108864,nonsense,0\n");
    BlockHashes hashes(image, test::replaced(path));
    hashes.load();
    hashes.touched({2 * block + 10, 1});
    const auto text = saved(hashes);
    EXPECT_EQ(text, "offset,length,sha256,unreadable\n0,67108864," + stale + ",0\n");
}

}  // namespace undershelf
