#include "hfsplus/records.hpp"

#include <gtest/gtest.h>

#include <algorithm>
#include <random>

#include "support/disk_image.hpp"
#include "support/hfsplus_image.hpp"

namespace undershelf::hfsplus {

using namespace test::hfsplus;
using test::put_number;

namespace {

const Geometry geometry{0, block, 1024};
const Bounds bounds{geometry, 1000, when - 1000, when + 1000, 8};

struct Told {
    std::vector<Item> items;
    std::vector<Thread> threads;
    std::vector<BareName> names;
};

Told found_in(const ByteVector& bytes, const Bounds& within = bounds) {
    Told out;
    find_leftovers(bytes, 5000, within,
                   {[&](Item&& i) { out.items.push_back(std::move(i)); },
                    [&](Thread&& t) { out.threads.push_back(std::move(t)); },
                    [&](BareName&& n) { out.names.push_back(std::move(n)); }});
    return out;
}

ByteVector behind_noise(const ByteVector& record) {
    constexpr std::size_t noise = 36;
    ByteVector out(noise + record.size(), 0xA5);
    std::copy(record.begin(), record.end(), out.begin() + noise);
    return out;
}

}  // namespace

TEST(HfsPlusRecords, KnowWhatTheFinderHides) {
    auto record = file_record({30, 20, u"play.txt", {5000, {{100, 2}}}});
    EXPECT_FALSE(read_item(record, geometry)->is_invisible());
    // finderFlags in userInfo, in the last 248 bytes, a file record.
    constexpr std::size_t file_record_size = 248, user_info = 48, finder_flags = 8;
    record[record.size() - file_record_size + user_info + finder_flags] = 0x40;
    EXPECT_TRUE(read_item(record, geometry)->is_invisible());
}

TEST(HfsPlusRecords, ReadsItemsAndThreads) {
    const auto item = read_item(file_record({30, 20, u"play.txt", {5000, {{100, 2}}}}), geometry);
    ASSERT_TRUE(item);
    EXPECT_EQ(item->id, 30u);
    EXPECT_EQ(item->parent, 20u);
    EXPECT_EQ(item->name, u"play.txt");
    EXPECT_EQ(item->data.size, 5000u);
    ASSERT_EQ(item->data.extents.size(), 1u);
    EXPECT_TRUE(item->data.sound);
    const auto thread = read_thread(thread_record(30, 20, u"play.txt"));
    ASSERT_TRUE(thread);
    EXPECT_EQ(thread->id, 30u);
    EXPECT_EQ(thread->parent, 20u);
    EXPECT_FALSE(thread->is_dir);
    EXPECT_FALSE(read_item(thread_record(30, 20, u"play.txt"), geometry));
}

TEST(HfsPlusRecords, RefusesKeysWhoseLengthsLie) {
    const auto good = file_record({30, 20, u"play.txt"});
    for (const auto& [at, value] : {std::pair<std::size_t, int>{0, 500}, {0, 4}, {6, 300}, {6, 7}}) {
        auto bad = good;
        put_number(bad, at, static_cast<std::uint64_t>(value), 2, true);
        EXPECT_FALSE(read_item(bad, geometry)) << at << " " << value;
    }
    EXPECT_FALSE(read_item(Bytes(good).first(100), geometry));
    // A file's record that is cut off anywhere, and a thread that is as long as one.
    for (std::size_t size = 0; size < good.size(); ++size)
        EXPECT_FALSE(read_item(Bytes(good).first(size), geometry)) << size;
    EXPECT_FALSE(read_item(thread_record(30, 20, std::u16string(200, u'x')), geometry));
}

TEST(HfsPlusRecords, ForksLongerThanTheVolumeAreNotSound) {
    const auto item = read_item(file_record({30, 20, u"far.txt", {5000, {{1000, 100}}}}), geometry);
    ASSERT_TRUE(item);
    EXPECT_FALSE(item->data.sound);
    EXPECT_TRUE(item->data.extents.empty());
    EXPECT_TRUE(
        found_in(behind_noise(file_record({30, 20, u"far.txt", {5000, {{1000, 100}}}}))).items.empty());
}

TEST(HfsPlusLeftovers, FindsRecordsBehindNoise) {
    const auto told = found_in(behind_noise(file_record({30, 20, u"play.txt", {5000, {{100, 2}}}})));
    ASSERT_EQ(told.items.size(), 1u);
    EXPECT_EQ(told.items[0].name, u"play.txt");
    EXPECT_EQ(told.items[0].source, 5000u + 36 + 24);
    EXPECT_TRUE(told.names.empty());
    EXPECT_EQ(found_in(behind_noise(folder_record(31, 20, u"Old"))).items.size(), 1u);
    EXPECT_EQ(found_in(behind_noise(thread_record(32, 20, u"name"))).threads.size(), 1u);
    EXPECT_EQ(found_in(behind_noise(index_record(20, u"name", 3))).names.size(), 1u);
}

TEST(HfsPlusLeftovers, KeepsABodyWhoseKeyIsGoneAndAKeyWhoseBodyIsCut) {
    auto bytes = behind_noise(file_record({30, 20, u"play.txt", {5000, {{100, 2}}}}));
    bytes[36 + 7] ^= 1;  // the name's length
    auto told = found_in(bytes);
    ASSERT_EQ(told.items.size(), 1u);
    EXPECT_FALSE(told.items[0].has_key);
    auto cut = behind_noise(file_record({30, 20, u"play.txt", {5000, {{100, 2}}}}));
    cut.resize(36 + 24 + 60);
    told = found_in(cut);
    EXPECT_TRUE(told.items.empty());
    ASSERT_EQ(told.names.size(), 1u);
    EXPECT_EQ(told.names[0].name, u"play.txt");
}

TEST(HfsPlusLeftovers, TurnsAwayWhatCannotBe) {
    const auto file = [](std::uint32_t id, ForkSpec data) {
        return behind_noise(file_record({id, 20, u"x", std::move(data)}));
    };
    EXPECT_TRUE(found_in(file(30, {5000, {{100, 2}}})).items.size() == 1);
    EXPECT_TRUE(found_in(file(1000, {5000, {{100, 2}}})).items.empty());   // an id never given out
    EXPECT_TRUE(found_in(file(4, {5000, {{100, 2}}})).items.empty());      // a special file's
    EXPECT_TRUE(found_in(file(30, {50'000, {{100, 2}}})).items.empty());   // longer than its blocks
    EXPECT_TRUE(found_in(file(30, {5000, {{100, 2}}, 5})).items.empty());  // blocks that no extent has
    auto later = bounds;
    later.earliest = when + 1;
    EXPECT_TRUE(found_in(file(30, {5000, {{100, 2}}}), later).items.empty());  // of another age
    std::mt19937 random(3);
    ByteVector noise(1 << 20);
    for (auto& b : noise) b = static_cast<std::uint8_t>(random());
    const auto told = found_in(noise);
    EXPECT_TRUE(told.items.empty() && told.threads.empty() && told.names.empty());
}

TEST(HfsPlusLeftovers, FindsOverflowExtentsAndAttributes) {
    std::vector<OverflowExtents> extents;
    find_overflow_leftovers(behind_noise(overflow_record(30, 8, {{100, 2}})), bounds,
                            [&](OverflowExtents&& x) { extents.push_back(std::move(x)); });
    ASSERT_EQ(extents.size(), 1u);
    EXPECT_EQ(extents[0].start_block, 8u);
    const ByteVector data{1, 2, 3};
    std::vector<Attribute> attributes;
    find_attribute_leftovers(behind_noise(attribute_record(30, u"org.example", data)), bounds,
                             [&](Attribute&& a) { attributes.push_back(std::move(a)); });
    ASSERT_EQ(attributes.size(), 1u);
    EXPECT_EQ(attributes[0].data, data);
    EXPECT_EQ(attributes[0].data_at, 36u + 14 + 22 + 16);
}

TEST(HfsPlusNames, AreComposedAndWithoutNuls) {
    EXPECT_EQ(shown(u"Fa\u0308den"),
              "F\xC3\xA4"
              "den");
    EXPECT_EQ(shown(std::u16string(1, u'\0') + u"x"), "\xE2\x90\x80x");
    EXPECT_FALSE(time_from(0));
    EXPECT_EQ(iso8601(*time_from(2'082'844'800)), "1970-01-01T00:00:00Z");
}

}  // namespace undershelf::hfsplus
