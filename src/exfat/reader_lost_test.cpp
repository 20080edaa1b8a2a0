// Sets where drivers that write otherwise leave them: in slack, with their chain cleared.

#include <gtest/gtest.h>

#include "exfat/file_system.hpp"
#include "exfat/reader.hpp"
#include "support/exfat_image.hpp"
#include "support/fat_image.hpp"
#include "support/memory_device.hpp"
#include "support/read_volume.hpp"

namespace undershelf::exfat {

namespace {

using namespace test::exfat;
using test::put_number;

test::Collector read(const ByteVector& bytes) {
    return test::read_volume(file_system(), bytes);
}

const Evidence* fact_of(const Entry& e, Fact fact) {
    for (const auto& x : e.evidence) {
        if (x.fact == fact) return &x;
    }
    return nullptr;
}

}  // namespace

TEST(ExfatSlack, HoldsSetsOfTheFolderThatHadTheCluster) {
    Image image;
    // The folder's first cluster, 70, went to a short file; what stood after its end is there still.
    image.add(70, {u"first.txt", 80, 5});
    image.add(70, {u"second.txt", 81, 5});
    image.erase(image.add(70, {u"third.txt", 82, 5}));
    image.erase(image.add(root, {u"Summer play", 70, cluster_size, ~0ull, false, true}));
    image.fill(70, std::string(100, 'x'));
    image.use(70);
    image.add(root, {u"later.txt", 70, 100});
    image.fill(81, "play.");
    const auto seen = read(image.bytes);
    EXPECT_FALSE(seen.find("first.txt"));
    for (const char* name : {"second.txt", "third.txt"}) {
        ASSERT_TRUE(seen.find(name)) << name;
        EXPECT_EQ(seen.find(name)->origin, Origin::deleted);
        EXPECT_EQ(seen.find(name)->parent, seen.find("Summer play")->key);
        EXPECT_TRUE(fact_of(*seen.find(name), Fact::in_slack));
    }
    EXPECT_EQ(test::content_of(image.bytes, *seen.find("second.txt")), "play.");
}

TEST(ExfatSlack, GoesUnderAStandInWhereNothingNamesTheFolder) {
    Image image;
    image.add(70, {u"first.txt", 80, 5});
    const auto second = image.add(70, {u"second.txt", 81, 5});
    image.add(70, {u"far.txt", 5000, 5});  // starts outside the volume
    const auto torn = image.add(70, {u"torn.txt", 83, 5});
    image.bytes[torn + 70] ^= 1;
    image.use(70);
    image.add(root, {u"later.txt", 70, 90});
    auto seen = read(image.bytes);
    ASSERT_TRUE(seen.find("second.txt") && seen.find("folder-70"));
    EXPECT_EQ(seen.find("second.txt")->parent, seen.find("folder-70")->key);
    EXPECT_FALSE(seen.find("far.txt") || seen.find("torn.txt"));
    // Without a set that proves itself there is no folder either.
    image.bytes[second + 70] ^= 1;
    seen = read(image.bytes);
    EXPECT_FALSE(seen.find("second.txt") || seen.find("folder-70"));
}

TEST(ExfatSlack, TextsThatLookLikeSlotsAreNone) {
    Image image;
    std::string text;
    while (text.size() < cluster_size)
        text += "A line of thirty-two bytes, as.\n@ and this one is as long too.\n";
    image.fill(70, text.substr(0, cluster_size));
    image.use(70);
    image.add(root, {u"later.txt", 70, 90});
    EXPECT_EQ(read(image.bytes).entries.size(), 1u);
}

TEST(ExfatChains, ThatWereFreedSpeakAgainstOneRun) {
    Image image;
    const auto add_live = [&](Cluster at, bool chained, bool one_run) {
        const Cluster second = one_run ? at + 1 : at + 3;
        image.use(at);
        image.use(second);
        if (chained) image.chain({at, second});
        image.add(root, {u"live.txt", at, 2 * cluster_size, ~0ull, chained});
    };
    add_live(20, true, false);
    add_live(30, true, false);
    add_live(40, true, true);
    image.erase(image.add(root, {u"lost.txt", 60, 2 * cluster_size, ~0ull, true}));
    // Where nobody sets the bit, that it is clear says nothing.
    auto seen = read(image.bytes);
    ASSERT_TRUE(seen.find("lost.txt") && fact_of(*seen.find("lost.txt"), Fact::layout_prior));
    add_live(50, false, true);
    seen = read(image.bytes);
    const auto* freed = fact_of(*seen.find("lost.txt"), Fact::chain_freed);
    ASSERT_TRUE(freed);
    EXPECT_EQ(freed->a, 1u);
    EXPECT_EQ(freed->b, 3u);
    EXPECT_FALSE(fact_of(*seen.find("lost.txt"), Fact::layout_prior));
}

TEST(ExfatRoot, LabelAndBitmapStandAnywhereInItsChain) {
    Image image;
    image.use(60);
    image.chain({root, 60});
    auto* first = image.bytes.data() + image.place(root);
    std::copy_n(first, 64, image.bytes.data() + image.place(60) + 3 * 32);
    for (std::size_t slot = 0; slot < cluster_size / 32; ++slot) {
        first[slot * 32] = 0x05;  // what was deleted; no end mark
        image.bytes[image.place(60) + slot % 3 * 32] = 0x05;
    }
    const auto source = test::memory_source(image.bytes);
    const auto found = file_system().recognise(*source, 0);
    ASSERT_TRUE(found);
    EXPECT_EQ(found->volume.label, "CUES");
    EXPECT_EQ(found->volume.support, 1);
    EXPECT_TRUE(file_system().space(*source, found->volume));
    // After the end mark there is nothing.
    image.bytes[image.place(60) + 32] = 0;
    EXPECT_EQ(file_system().recognise(*test::memory_source(image.bytes), 0)->volume.label, "");
}

}  // namespace undershelf::exfat
