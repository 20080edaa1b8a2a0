// Sets where drivers that write otherwise leave them: in slack, across clusters, with their chain cleared.

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

/// Moves the bytes of a set that stands in `from` so that its first `head` slots are the last of cluster `a`,
/// and the rest the first of cluster `b`.
void split_set(Image& image, std::size_t from, std::size_t slots, std::size_t head, Cluster a, Cluster b) {
    const auto at = image.bytes.begin() + static_cast<std::ptrdiff_t>(from);
    const ByteVector set(at, at + static_cast<std::ptrdiff_t>(slots * 32));
    std::fill(at, at + static_cast<std::ptrdiff_t>(slots * 32), std::uint8_t{0});
    const auto put = [&](std::size_t place, std::size_t first, std::size_t count) {
        std::copy_n(set.begin() + static_cast<std::ptrdiff_t>(first * 32), count * 32,
                    image.bytes.begin() + static_cast<std::ptrdiff_t>(place));
    };
    put(image.place(a) + cluster_size - head * 32, 0, head);
    put(image.place(b), head, slots - head);
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
    // The folder's first cluster, 70, went to a short file; what stood behind its end is there still.
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

TEST(ExfatFolders, GoOnWhereASetVerifiesAcrossClusters) {
    Image image;
    image.add(70, {u"first.txt", 80, 5});
    const auto split = image.add(70, {u"the set that lies in both clusters.txt", 81, 5});
    split_set(image, split, 5, 2, 70, 90);
    // Behind the rest of that set another one stands; cluster 71 holds a folder of its own.
    const auto other = image.add(91, {u"after.txt", 82, 5});
    std::copy_n(image.bytes.begin() + static_cast<std::ptrdiff_t>(other), 96,
                image.bytes.begin() + static_cast<std::ptrdiff_t>(image.place(90) + 96));
    std::fill_n(image.bytes.begin() + static_cast<std::ptrdiff_t>(other), 96, std::uint8_t{0});
    image.add(71, {u"elsewhere.txt", 83, 5});
    // The space between the two sets of cluster 70 is filled, as in a folder that is full.
    for (std::size_t slot = 3; slot < 126; slot += 3) image.erase(image.add(72, {u"filler.txt", 84, 5}));
    std::copy_n(image.bytes.begin() + static_cast<std::ptrdiff_t>(image.place(72)), 123 * 32,
                image.bytes.begin() + static_cast<std::ptrdiff_t>(image.place(70) + 96));
    std::fill_n(image.bytes.begin() + static_cast<std::ptrdiff_t>(image.place(72)), 123 * 32,
                std::uint8_t{0});
    const auto seen = read(image.bytes);
    ASSERT_TRUE(seen.find("folder-70") && seen.find("folder-71"));
    for (const char* name : {"first.txt", "the set that lies in both clusters.txt", "after.txt"}) {
        ASSERT_TRUE(seen.find(name)) << name;
        EXPECT_EQ(seen.find(name)->parent, seen.find("folder-70")->key) << name;
    }
    EXPECT_EQ(seen.find("elsewhere.txt")->parent, seen.find("folder-71")->key);
}

TEST(ExfatFolders, AClusterThatBeginsInTheMiddleOfASetIsAFind) {
    Image image;
    const auto split = image.add(89, {u"the set that lies in both clusters.txt", 81, 5});
    split_set(image, split, 5, 1, 89, 90);
    const auto other = image.add(91, {u"after.txt", 82, 5});
    std::copy_n(image.bytes.begin() + static_cast<std::ptrdiff_t>(other), 96,
                image.bytes.begin() + static_cast<std::ptrdiff_t>(image.place(90) + 4 * 32));
    std::fill_n(image.bytes.begin() + static_cast<std::ptrdiff_t>(other), 96, std::uint8_t{0});
    image.use(89);  // the cluster before is somebody else's now
    const auto seen = read(image.bytes);
    ASSERT_TRUE(seen.find("folder-90") && seen.find("after.txt"));
    EXPECT_EQ(seen.find("after.txt")->parent, seen.find("folder-90")->key);
    // The set has lost its file entry; the hash of its name ties the rest together.
    ASSERT_TRUE(seen.find("the set that lies in both clusters.txt"));
    EXPECT_EQ(seen.find("the set that lies in both clusters.txt")->size, 5u);
}

TEST(ExfatFolders, ChainsThatWereClearedAreFollowedBySets) {
    Image image;
    image.erase(image.add(root, {u"Winter play", 70, 2 * cluster_size, ~0ull, true, true}));
    for (std::size_t slot = 0; slot < 126; slot += 3) image.erase(image.add(70, {u"filler.txt", 84, 5}));
    const auto split = image.add(70, {u"in both.txt", 81, 5});
    // The last two slots of cluster 70, and the first of 95, not of 71.
    ByteVector set(image.bytes.begin() + static_cast<std::ptrdiff_t>(split),
                   image.bytes.begin() + static_cast<std::ptrdiff_t>(split) + 96);
    std::fill_n(image.bytes.begin() + static_cast<std::ptrdiff_t>(image.place(71)), 32, std::uint8_t{0});
    std::copy_n(set.begin() + 64, 32, image.bytes.begin() + static_cast<std::ptrdiff_t>(image.place(95)));
    const auto seen = read(image.bytes);
    ASSERT_TRUE(seen.find("in both.txt"));
    EXPECT_EQ(seen.find("in both.txt")->parent, seen.find("Winter play")->key);
    EXPECT_EQ(seen.find("Winter play")->layout, Layout::assumed);
    EXPECT_EQ(seen.find("Winter play")->claims.size(), 2u);
}

TEST(ExfatFolders, GoOnWhereTheirWriterWas) {
    // Sets of four slots fill clusters exactly, so that none reaches from one into the next. Each new cluster
    // of the folder lies behind the files that the one before names.
    constexpr int in_a_cluster = cluster_size / 128;
    Image image;
    Cluster next = 70;
    std::vector<Cluster> clusters;
    for (int i = 0; i < 2 * in_a_cluster + 5; ++i) {
        if (i % in_a_cluster == 0) clusters.push_back(next++);
        const std::u16string number{static_cast<char16_t>(u'0' + i / 10),
                                    static_cast<char16_t>(u'0' + i % 10)};
        const auto at = image.add(clusters.back(),
                                  {.name = u"rehearsal photo " + number + u".jpg",
                                   .start = next++,
                                   .size = 900,
                                   .created = 0x5A645000u + static_cast<unsigned>(i / 30 * 32 + i % 30)});
        image.erase(at, 4);
    }
    // The driver left the folder's size as it was when it was made.
    image.erase(image.add(
        root, {.name = u"photos", .start = 70, .size = cluster_size, .chained = true, .folder = true}));
    const auto seen = read(image.bytes);
    const auto* folder = seen.find("photos");
    ASSERT_TRUE(folder);
    const auto in_it = std::count_if(seen.entries.begin(), seen.entries.end(), [&](const Entry& e) {
        return e.name.starts_with("rehearsal photo") && e.parent == folder->key;
    });
    EXPECT_EQ(in_it, 2 * in_a_cluster + 5);
    // Files that are older than those before them are another folder's.
    auto older = image.bytes;
    for (int i = 0; i < in_a_cluster; ++i) {
        const auto at = image.place(clusters[1]) + static_cast<std::size_t>(i) * 128;
        put_number(older, at + 8, 0x58645000, 4);
        older[at] |= 0x80;
        for (const auto slot : {32, 64, 96}) older[at + static_cast<std::size_t>(slot)] |= 0x80;
        put_number(older, at + 2, set_checksum(Bytes(older).subspan(at, 128)), 2);
        for (const auto slot : {0, 32, 64, 96}) older[at + static_cast<std::size_t>(slot)] &= 0x7F;
    }
    const auto apart = read(older);
    const auto* alone = apart.find("photos");
    ASSERT_TRUE(alone);
    EXPECT_EQ(std::count_if(apart.entries.begin(), apart.entries.end(),
                            [&](const Entry& e) { return e.parent == alone->key; }),
              in_a_cluster);
}

TEST(ExfatFolders, EndAtTheirEndMark) {
    Image image;
    for (const auto& [cluster, name] :
         {std::pair<Cluster, const char16_t*>{70, u"fox.txt"}, {71, u"owl.txt"}})
        image.erase(image.add(cluster, {.name = name, .start = cluster + 10, .size = 100}));
    image.erase(image.add(
        root, {.name = u"masks", .start = 70, .size = 2 * cluster_size, .chained = true, .folder = true}));
    const auto seen = read(image.bytes);
    const auto *folder = seen.find("masks"), *fox = seen.find("fox.txt"), *owl = seen.find("owl.txt");
    ASSERT_TRUE(folder && fox && owl);
    EXPECT_EQ(fox->parent, folder->key);
    EXPECT_NE(owl->parent, folder->key) << "behind an end mark nothing follows";
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
    // Behind the end mark there is nothing.
    image.bytes[image.place(60) + 32] = 0;
    EXPECT_EQ(file_system().recognise(*test::memory_source(image.bytes), 0)->volume.label, "");
}

}  // namespace undershelf::exfat
