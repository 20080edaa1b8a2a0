#include "exfat/reader.hpp"

#include <gtest/gtest.h>

#include <random>

#include "base/text.hpp"
#include "exfat/file_system.hpp"
#include "exfat/traces.hpp"
#include "support/disk_image.hpp"
#include "support/exfat_image.hpp"
#include "support/fat_image.hpp"
#include "support/heads.hpp"
#include "support/memory_device.hpp"
#include "support/read_volume.hpp"
#include "support/traces.hpp"
#include "volume/content_stream.hpp"

namespace undershelf::exfat {

namespace {

using test::put_number;
using namespace test::exfat;

test::Collector read(const ByteVector& bytes) {
    return test::read_volume(file_system(), bytes);
}

std::string content_of(const Image& image, const Entry& e) {
    return test::content_of(image.bytes, e);
}

}  // namespace

TEST(ExfatReader, ReadsTheLiveTree) {
    Image image;
    image.use(10);
    image.add(root, {u"Scripts", 10, cluster_size, ~0ull, false, true});
    const auto text = test::sample_text("winter", 10'000);
    for (int i = 0; i < 3; ++i)
        image.fill(static_cast<Cluster>(20 + 2 * i),
                   text.substr(static_cast<std::size_t>(i) * cluster_size, cluster_size)),
            image.use(static_cast<Cluster>(20 + 2 * i));
    image.chain({20, 22, 24});
    image.add(10, {u"Winter play, the long version.txt", 20, text.size(), ~0ull, true});
    const auto seen = read(image.bytes);
    ASSERT_EQ(seen.entries.size(), 2u);
    const auto* play = seen.find("Winter play, the long version.txt");
    ASSERT_TRUE(play);
    EXPECT_EQ(play->parent, seen.find("Scripts")->key);
    EXPECT_EQ(content_of(image, *play), text);
    EXPECT_EQ(iso8601(*play->created), "2025-03-04T10:00:00+01:00");
}

TEST(ExfatReader, ReadsOfAFolderWhatIsThere) {
    Image image;
    image.use(10);
    image.add(root, {u"Endless", 10, 1ull << 50, ~0ull, false, true});
    image.add(10, {u"inside.txt", 20, 100});
    image.erase(image.add(root, {u"Endless too", 40, 1ull << 56, ~0ull, false, true}));
    image.add(40, {u"was inside.txt", 50, 100});
    // The volume says that it goes on far after the source's end.
    put_number(image.bytes, 72, 1ull << 40, 8);
    put_number(image.bytes, 92, 0xF0000000, 4);
    const auto seen = read(image.bytes);
    EXPECT_TRUE(seen.find("inside.txt"));
    EXPECT_TRUE(seen.find("Endless too"));
}

TEST(ExfatReader, ReadsZerosBehindTheValidLength) {
    Image image;
    image.fill(30, std::string(cluster_size, 'x'));
    image.use(30);
    image.add(root, {u"part.bin", 30, 3000, 1000});
    const auto seen = read(image.bytes);
    ASSERT_EQ(seen.entries.size(), 1u);
    EXPECT_EQ(content_of(image, seen.entries[0]), std::string(1000, 'x') + std::string(2000, '\0'));
    EXPECT_EQ(seen.entries[0].claims[0].length, cluster_size);
}

TEST(ExfatReader, KnowsTheLayoutOfDeletedFiles) {
    Image image;
    const auto text = test::sample_text("lost", 2 * cluster_size);
    for (const Cluster first : {40u, 50u, 60u}) {
        const Cluster second = first == 40 ? 41 : first + 5;
        image.fill(first, text.substr(0, cluster_size));
        image.fill(second, text.substr(cluster_size));
        if (first != 40) image.chain({first, second});
    }
    image.erase(image.add(root, {u"run.txt", 40, text.size()}));
    image.erase(image.add(root, {u"chain.txt", 50, text.size(), ~0ull, true}));
    image.erase(image.add(root, {u"broken.txt", 60, text.size(), ~0ull, true}));
    image.use(65);  // somebody has a cluster of the last chain now
    const auto seen = read(image.bytes);
    for (const char* name : {"run.txt", "chain.txt"}) {
        ASSERT_TRUE(seen.find(name)) << name;
        EXPECT_EQ(seen.find(name)->layout, Layout::known);
        EXPECT_EQ(content_of(image, *seen.find(name)), text);
    }
    EXPECT_EQ(seen.find("broken.txt")->layout, Layout::assumed);
}

TEST(ExfatReader, FollowsDeletedFoldersAndOwnerlessOnes) {
    Image image;
    image.add(70, {u"act 1.txt", 71, 5});
    image.add(80, {u"act 2.txt", 81, 5});
    image.erase(image.add(root, {u"Summer play", 70, cluster_size, ~0ull, false, true}));
    const auto seen = read(image.bytes);
    EXPECT_EQ(seen.find("act 1.txt")->parent, seen.find("Summer play")->key);
    ASSERT_TRUE(seen.find("folder-80"));
    EXPECT_EQ(seen.find("act 2.txt")->parent, seen.find("folder-80")->key);
}

TEST(ExfatReader, TellsOldNamesAndFragments) {
    Image image;
    image.use(30);
    image.erase(image.add(root, {u"old name.txt", 30, 100}));
    image.add(root, {u"new name.txt", 30, 100});
    const auto headless = image.add(root, {u"headless.txt", 90, 100});
    image.erase(headless);
    image.bytes[headless] = 0x83 & 0x7F;
    const auto fragment = image.add(root, {u"a name of more than fifteen units.txt", 95, 100});
    image.erase(fragment, 5);
    image.bytes[fragment] = image.bytes[fragment + 32] = 0x03;
    const auto seen = read(image.bytes);
    EXPECT_FALSE(seen.find("old name.txt"));
    ASSERT_EQ(seen.late.size(), 1u);
    EXPECT_EQ(seen.late[0].second.text, "old name.txt");
    ASSERT_TRUE(seen.find("headless.txt"));
    EXPECT_EQ(seen.find("headless.txt")->size, 100u);
    ASSERT_TRUE(seen.find("a name of more than fifteen units.txt"));
    EXPECT_EQ(seen.find("a name of more than fifteen units.txt")->name_certainty, NameCertainty::fragment);
}

TEST(ExfatReader, CutsCircles) {
    Image image;
    image.add(root, {u"Root again", root, cluster_size, ~0ull, false, true});
    image.add(root, {u"Self", 10, cluster_size, ~0ull, false, true});
    image.add(10, {u"Self", 10, cluster_size, ~0ull, false, true});
    image.use(10);
    image.add(root, {u"loop.bin", 200, 50 * cluster_size, ~0ull, true});
    put_number(image.bytes, 24 * 512 + 200 * 4, 201, 4);
    put_number(image.bytes, 24 * 512 + 201 * 4, 200, 4);
    const auto seen = read(image.bytes);
    EXPECT_EQ(seen.entries.size(), 4u);
    EXPECT_EQ(seen.diagnostics.size(), 2u);
}

TEST(ExfatReader, SurvivesFlippedBytes) {
    Image image;
    image.use(10);
    image.add(root, {u"Scripts", 10, cluster_size, ~0ull, false, true});
    image.chain({20, 21});
    image.add(10, {u"play.txt", 20, 5000, ~0ull, true});
    image.erase(image.add(10, {u"gone.txt", 30, 9000}));
    image.erase(image.add(root, {u"Old", 40, cluster_size, ~0ull, false, true}));
    const auto flip = [&](std::size_t at, std::uint8_t value) {
        auto bytes = image.bytes;
        bytes[at] = value;
        for (const auto& e : read(bytes).entries) ASSERT_LE(e.pieces.size(), 2000u);
    };
    std::mt19937 random(2);
    for (std::size_t i = 64; i < 120; i += 2) flip(i, 0xFF);
    for (const std::size_t base : {image.place(root), image.place(10)}) {
        for (std::size_t i = 0; i < 32 * 9; i += 2) flip(base + i, static_cast<std::uint8_t>(random()));
    }
    for (std::size_t i = 0; i < 120; i += 3) flip(24 * 512 + i, static_cast<std::uint8_t>(random()));
    // The bitmap only says what is in use: whatever it says, the live tree is still found.
    for (std::size_t i = 0; i < 64; ++i) {
        auto bytes = image.bytes;
        bytes[image.place(2) + i] = static_cast<std::uint8_t>(random());
        const auto seen = read(bytes);
        EXPECT_TRUE(seen.find("play.txt") && seen.find("gone.txt"));
    }
}

TEST(ExfatTimestamp, KnowsItsOffset) {
    EXPECT_EQ(iso8601(*timestamp(0x5A645000, 150, 0x80)), "2025-03-04T10:00:01.5Z");
    EXPECT_EQ(iso8601(*timestamp(0x5A645000, 0, 0xEC)), "2025-03-04T10:00:00-05:00");
    EXPECT_EQ(iso8601(*timestamp(0x5A645000, 0, 0)), "2025-03-04T10:00:00");
    EXPECT_FALSE(timestamp(0, 0, 0));
    EXPECT_FALSE(timestamp(0xFFFFFFFF, 0, 0));
}

TEST(ExfatTraces, FindsSetsByTheirChecksum) {
    Image image;
    image.add(root, {u"live.txt", 20, 5});
    image.erase(image.add(root, {u"dead.txt", 21, 6}));
    const auto broken = image.add(root, {u"torn.txt", 22, 7});
    image.bytes[broken + 40] ^= 1;
    test::Traces found(file_system(), image.bytes);
    std::vector<SetTrace> sets;
    found.visit_all(set_trace, [&](const Trace& t) {
        sets.push_back(set_of(t));
        return true;
    });
    ASSERT_EQ(sets.size(), 2u);
    EXPECT_EQ(sets[0].first_cluster, 20u);
    EXPECT_TRUE(sets[0].in_use);
    EXPECT_EQ(sets[1].first_cluster, 21u);
    EXPECT_FALSE(sets[1].in_use);
    EXPECT_EQ(sets[1].slots, 3);
}

}  // namespace undershelf::exfat
