#include "hfsplus/btree.hpp"

#include <gtest/gtest.h>

#include <algorithm>
#include <random>

#include "support/disk_image.hpp"
#include "support/hfsplus_image.hpp"
#include "support/memory_device.hpp"

namespace undershelf::hfsplus {

using namespace test::hfsplus;
using test::put_number;

TEST(HfsPlusNode, TakesNodesApart) {
    const std::vector<ByteVector> records{ByteVector(20, 1), ByteVector(30, 2), ByteVector(8, 3)};
    const auto bytes = node_of(-1, records, 7);
    const auto node = Node::parse(bytes);
    ASSERT_TRUE(node);
    EXPECT_EQ(node->kind(), kBTLeafNode);
    EXPECT_EQ(node->next(), 7u);
    ASSERT_EQ(node->records(), 3u);
    for (std::size_t i = 0; i < 3; ++i) {
        const auto r = node->record(i);
        EXPECT_EQ(ByteVector(r.begin(), r.end()), records[i]);
    }
    EXPECT_EQ(node->free_offset(), 14u + 58);
    EXPECT_EQ(node->free_space().size(), node_size - 14 - 58 - 8);
}

TEST(HfsPlusNode, RefusesOffsetsThatMakeNoSense) {
    const auto good = node_of(-1, {ByteVector(20), ByteVector(30)});
    const auto with = [&](std::size_t at, std::uint64_t value, int bytes) {
        auto b = good;
        put_number(b, at, value, bytes, true);
        return Node::parse(b).has_value();
    };
    EXPECT_TRUE(with(4, 99, 4));                 // a backward link says nothing on the node itself
    EXPECT_FALSE(with(node_size - 2, 16, 2));    // the first record does not follow the descriptor
    EXPECT_FALSE(with(node_size - 4, 14, 2));    // no length
    EXPECT_FALSE(with(node_size - 4, 80, 2));    // after the one after it
    EXPECT_FALSE(with(node_size - 6, 35, 2));    // before the one before it, and odd
    EXPECT_FALSE(with(node_size - 6, 4094, 2));  // inside the table of offsets
    EXPECT_FALSE(with(10, 3000, 2));             // more records than have room
    EXPECT_FALSE(with(8, 0x0500, 2));            // no kind of node
    EXPECT_FALSE(with(12, 1, 2));                // reserved
    EXPECT_FALSE(Node::parse(Bytes(good).first(10)));
}

TEST(HfsPlusNode, TheRestOfALeafIsReadByItsOffsets) {
    auto bytes = node_of(-1, {ByteVector(20, 1), ByteVector(30, 2), ByteVector(8, 3)});
    std::fill_n(bytes.begin(), 40, std::uint8_t{0x55});
    EXPECT_FALSE(Node::parse(bytes));
    const auto rest = Node::parse_rest(bytes);
    ASSERT_TRUE(rest);
    ASSERT_EQ(rest->records(), 3u);
    EXPECT_EQ(rest->record(2)[0], 3);
    put_number(bytes, node_size - 6, 35, 2, true);  // the third record's: odd
    EXPECT_EQ(Node::parse_rest(bytes)->records(), 1u);
    std::fill(bytes.begin(), bytes.end(), std::uint8_t{0x55});
    EXPECT_FALSE(Node::parse_rest(bytes));
}

TEST(HfsPlusNode, TheStartOfALeafIsReadByLengths) {
    const auto length = [](Bytes bytes) {
        return bytes.size() >= 20 && bytes[0] < 0x55 ? std::size_t{20} : 0u;
    };
    auto bytes = node_of(-1, {ByteVector(20, 1), ByteVector(20, 2), ByteVector(20, 3)});
    std::fill(bytes.begin() + 14 + 45, bytes.end(), std::uint8_t{0x55});
    EXPECT_FALSE(Node::parse_rest(bytes));
    auto rest = Node::parse_rest(bytes, length);
    ASSERT_TRUE(rest);
    ASSERT_EQ(rest->records(), 3u);
    EXPECT_EQ(rest->record(2)[0], 3);
    bytes[14 + 40] = 0x55;
    EXPECT_EQ(Node::parse_rest(bytes, length)->records(), 2u);
    // No more than it says it has.
    put_number(bytes, 10, 1, 2, true);
    EXPECT_EQ(Node::parse_rest(bytes, length)->records(), 1u);
    put_number(bytes, 8, 0, 1, true);  // an index
    EXPECT_FALSE(Node::parse_rest(bytes, length));
}

TEST(HfsPlusReader, ReadsWhatIsLeftOfALeafWhoseEndIsWrittenOver) {
    Image image;
    std::vector<ByteVector> records{folder_record(29, 2, u"Cues")};
    for (std::uint32_t id = 30; id < 38; ++id)
        records.push_back(
            file_record({id, 29, u"cue " + std::u16string(1, static_cast<char16_t>(u'a' + id - 30))}));
    image.leaves(Image::catalogue,
                 {{file_record({21, 2, u"a.txt"})}, records, {file_record({50, 2, u"z.txt"})}});
    const auto at = image.place(Image::catalogue, 2);
    // Into the forks of the fifth file.
    const auto half = 14 + records[0].size() + records[1].size() * 5 - 100;
    std::mt19937 random(1);
    for (auto i = at + half; i < at + node_size; ++i) image.bytes[i] = static_cast<std::uint8_t>(random());
    const auto seen = read(image.bytes);
    for (const char* name : {"Cues", "cue a", "cue b", "cue c", "cue d", "a.txt", "z.txt"}) {
        ASSERT_TRUE(seen.find(name)) << name;
        EXPECT_EQ(seen.find(name)->origin, Origin::live) << name;
    }
    EXPECT_EQ(seen.find("cue d")->parent, seen.find("Cues")->key);
    for (const char* name : {"cue e", "cue f"}) EXPECT_FALSE(seen.find(name)) << name;
}

TEST(HfsPlusReader, ReadsWhatIsLeftOfALeafWhoseBeginningIsWrittenOver) {
    Image image;
    std::vector<ByteVector> records;
    for (std::uint32_t id = 30; id < 38; ++id)
        records.push_back(
            file_record({id, 2, u"cue " + std::u16string(1, static_cast<char16_t>(u'a' + id - 30))}));
    image.leaves(Image::catalogue,
                 {{file_record({21, 2, u"a.txt"})}, records, {file_record({50, 2, u"z.txt"})}});
    const auto at = static_cast<std::ptrdiff_t>(image.place(Image::catalogue, 2));
    const auto half = records[0].size() * 4 + 14 + 10;  // into the fifth record
    std::fill_n(image.bytes.begin() + at, half, std::uint8_t{0x55});
    const auto seen = read(image.bytes);
    for (const char* name : {"cue f", "cue g", "cue h", "a.txt", "z.txt"}) {
        ASSERT_TRUE(seen.find(name)) << name;
        EXPECT_EQ(seen.find(name)->origin, Origin::live) << name;
    }
    for (const char* name : {"cue a", "cue d"}) EXPECT_FALSE(seen.find(name)) << name;
    EXPECT_EQ(std::count_if(seen.entries.begin(), seen.entries.end(),
                            [](const Entry& e) { return e.name == "cue g"; }),
              1);
}

TEST(HfsPlusTree, EndsWhenItsIndexRunsInACircle) {
    Image image;
    image.leaves(Image::catalogue, {{file_record({21, 2, u"a"})}, {file_record({22, 2, u"b"})}});
    // The root points at itself, at a leaf twice, and out of the file.
    image.node(Image::catalogue, 3,
               node_of(0, {index_record(1, u"x", 3), index_record(2, u"y", 1), index_record(3, u"z", 1),
                           index_record(4, u"w", 99)}));
    const auto source = test::memory_source(image.bytes);
    const Geometry geometry{0, block, static_cast<std::uint32_t>(image.bytes.size() / block)};
    BTree tree(Fork(*source, geometry,
                    {{static_cast<std::uint32_t>(image.place(Image::catalogue) / block), 8}}, 8 * node_size),
               image.bytes.size());
    std::vector<std::string> said;
    tree.find_leaves([&](std::string s) { said.push_back(std::move(s)); });
    EXPECT_EQ(said.size(), 1u);
    EXPECT_EQ(tree.use(1), NodeUse::leaf);
    EXPECT_EQ(tree.use(2), NodeUse::leaf);
    EXPECT_EQ(tree.use(3), NodeUse::index);
    EXPECT_EQ(tree.use(4), NodeUse::unused);
}

TEST(HfsPlusTree, IsNoLargerThanItsSource) {
    Image image;
    const auto source = test::memory_source(image.bytes);
    const Geometry geometry{0, block, 0xFFFFFFFF};
    const BTree tree(Fork(*source, geometry, {{12, 0x7FFFFFFF}}, ~0ull), image.bytes.size());
    EXPECT_EQ(tree.nodes(), image.bytes.size() / node_size);
}

}  // namespace undershelf::hfsplus
