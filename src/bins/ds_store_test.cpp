#include "bins/ds_store.hpp"

#include <gtest/gtest.h>

#include "support/disk_image.hpp"
#include "support/ds_store_file.hpp"

namespace undershelf {

namespace {

using namespace test::ds_store;
}  // namespace

TEST(DsStore, TellsWhereThingsAreToBePutBackTo) {
    const auto records = parse_ds_store(store(leaf_with(u"owl 2.wav", u"Sound/Night/", u"owl.wav")));
    ASSERT_EQ(records.size(), 1u);
    EXPECT_EQ(records[0].name, "owl 2.wav");
    EXPECT_EQ(records[0].first_path, "Sound/Night/owl.wav");
}

TEST(DsStore, ReadsATreeOfTwoLevels) {
    ByteVector root;
    put(root, 3u);  // the block after the last record
    put(root, 1u);
    put(root, 3u);
    put_record(root, u"z.txt", "ptbL", u"/");
    // One block twice is looked at once.
    EXPECT_EQ(parse_ds_store(store(root, leaf_with(u"a.txt", u"A", u"a.txt"))).size(), 2u);
}

TEST(DsStore, SurvivesDamage) {
    const auto sound = store(leaf_with(u"owl.wav", u"Sound", u"owl.wav"));
    for (std::size_t cut = 0; cut < sound.size(); cut += 7)
        EXPECT_LE(parse_ds_store({sound.data(), cut}).size(), 1u);
    // Every number of it, made as large as it can be; a name may become another one.
    for (std::size_t at = 0; at + 4 <= sound.size(); at += 4) {
        auto bad = sound;
        std::fill_n(bad.begin() + static_cast<std::ptrdiff_t>(at), 4, 0xFF);
        EXPECT_LE(parse_ds_store(bad).size(), 2u) << at;
    }
}

TEST(DsStore, ReadsNoMoreThanTheFileHas) {
    // Every block that the allocator knows is the same leaf, and the root names them all.
    ByteVector root;
    put(root, 4u);
    put(root, 1000u);
    for (std::uint32_t i = 0; i < 250; ++i) {
        put(root, 4 + i);
        put_record(root, u"a", "ptbL", u"A");
    }
    auto file = store(root, leaf_with(u"owl.wav", u"Sound", u"owl.wav"));
    const std::size_t addresses = 4 + 2048 + 8;
    for (std::size_t i = 4; i < 256; ++i) test::put_number(file, addresses + i * 4, 8192 | 12, 4, true);
    test::put_number(file, 4 + 2048, 256, 4, true);
    EXPECT_LE(parse_ds_store(file).size(), 2u);
}

}  // namespace undershelf
