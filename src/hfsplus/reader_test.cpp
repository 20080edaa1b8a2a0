#include <gtest/gtest.h>
#include <zlib.h>

#include <algorithm>
#include <random>

#include "hfsplus/file_system.hpp"
#include "hfsplus/structures.hpp"
#include "support/disk_image.hpp"
#include "support/fat_image.hpp"
#include "support/hfsplus_image.hpp"
#include "support/memory_device.hpp"

namespace undershelf::hfsplus {

using namespace test::hfsplus;
using test::put_number;
using test::sample_text;

namespace {

ByteVector packed(const std::string& text) {
    ByteVector out(compressBound(text.size()));
    uLongf size = out.size();
    compress(out.data(), &size, reinterpret_cast<const Bytef*>(text.data()), text.size());
    out.resize(size);
    return out;
}

ByteVector raw(const std::string& text) {
    ByteVector out(1 + text.size(), 0xFF);
    std::copy(text.begin(), text.end(), out.begin() + 1);
    return out;
}

}  // namespace

TEST(HfsPlusReader, ReadsFilesFoldersAndFragments) {
    Image image;
    const auto text = sample_text("winter", 3 * block - 100);
    image.fill(100, text.substr(0, block));
    image.fill(90, text.substr(block));
    image.leaves(Image::catalogue,
                 {{folder_record(20, 2, u"Scripts"), thread_record(20, 2, u"Scripts", true)},
                  {file_record({21, 20, u"winte\u0301r.txt", {text.size(), {{100, 1}, {90, 2}}}}),
                   file_record({22, 2, u"empty.txt"})}});
    const auto seen = read(image.bytes);
    const auto* winter = seen.find("wint\xC3\xA9r.txt");
    ASSERT_TRUE(winter);
    EXPECT_EQ(winter->origin, Origin::live);
    EXPECT_EQ(winter->parent, seen.find("Scripts")->key);
    EXPECT_EQ(seen.find("Scripts")->parent, root_key);
    EXPECT_EQ(content_of(image.bytes, *winter), text);
    EXPECT_EQ(winter->layout, Layout::known);
    EXPECT_EQ(iso8601(*winter->modified), "2024-03-04T00:00:00Z");
    ASSERT_TRUE(seen.find("empty.txt"));
    EXPECT_EQ(seen.find("empty.txt")->layout, Layout::known);
    EXPECT_TRUE(seen.diagnostics.empty());
    EXPECT_EQ(seen.entries.size(), 3u);
}

TEST(HfsPlusReader, FollowsTheExtentsOverflow) {
    Image image;
    const auto text = sample_text("long", 10 * block);
    std::vector<std::pair<std::uint32_t, std::uint32_t>> first;
    for (std::uint32_t i = 0; i < 8; ++i) {
        first.push_back({200 + 2 * i, 1});
        image.fill(200 + 2 * i, text.substr(i * block, block));
    }
    image.fill(300, text.substr(8 * block));
    image.leaves(Image::catalogue, {{file_record({21, 2, u"long.txt", {text.size(), first, 10}})}});
    image.leaves(Image::extents, {{overflow_record(21, 8, {{300, 2}})}});
    EXPECT_EQ(content_of(image.bytes, *read(image.bytes).find("long.txt")), text);
    // Without it the rest is missing, and said to be.
    image.leaves(Image::extents, {{overflow_record(22, 8, {{300, 2}})}});
    EXPECT_EQ(read(image.bytes).find("long.txt")->pieces.back().kind, PieceKind::missing);
}

TEST(HfsPlusReader, GivesResourceForksAsAppleDouble) {
    Image image;
    const auto fork = sample_text("icon", 700);
    image.fill(100, "data");
    image.fill(101, fork);
    image.leaves(Image::catalogue,
                 {{file_record({21, 2, u"poster", {4, {{100, 1}}}, {700, {{101, 1}}}, 0x54455854}),
                   file_record({22, 2, u"plain", {4, {{100, 1}}}, {}, 0x3F3F3F3F, 0x3F3F3F3F})}});
    const auto seen = read(image.bytes);
    const auto* stream = find_stream(seen, "poster", resource_fork_stream);
    ASSERT_TRUE(stream);
    const auto content = content_of(image.bytes, *stream);
    ASSERT_EQ(content.size(), 50u + 32 + 700);
    const auto* p = reinterpret_cast<const std::uint8_t*>(content.data());
    EXPECT_EQ(load<big_uint32_buf_t>({p, 4})->value(), 0x00051607u);
    EXPECT_EQ(load<big_uint16_buf_t>({p, content.size()}, 24)->value(), 2);
    EXPECT_EQ(load<big_uint32_buf_t>({p, content.size()}, 42)->value(), 82u);  // where the fork is
    EXPECT_EQ(content.substr(50, 4), "TEXT");
    EXPECT_EQ(content.substr(82), fork);
    EXPECT_FALSE(find_stream(seen, "plain", resource_fork_stream));
}

TEST(HfsPlusReader, UnpacksCompressedFiles) {
    Image image;
    const auto small = sample_text("small", 900), large = sample_text("large", 70'000);
    // The resource fork of type 4: where its data is, its length, the number of chunks, their places, the
    // chunks.
    const auto first = packed(large.substr(0, 65536)), second = raw(large.substr(65536));
    ByteVector fork(0x104 + 4 + 16);
    put_number(fork, 0, 0x100, 4, true);
    put_number(fork, 0x104, 2, 4);
    put_number(fork, 0x108, 20, 4);
    put_number(fork, 0x10C, first.size(), 4);
    put_number(fork, 0x110, 20 + first.size(), 4);
    put_number(fork, 0x114, second.size(), 4);
    fork.insert(fork.end(), first.begin(), first.end());
    fork.insert(fork.end(), second.begin(), second.end());
    image.put(100 * block, fork);
    const auto file = [&](std::uint32_t id, const std::u16string& name, ForkSpec resource = {}) {
        FileSpec f{id, 2, name, {}, std::move(resource)};
        f.owner_flags = 0x20;
        return file_record(f);
    };
    image.leaves(Image::catalogue, {{file(21, u"inline.txt"), file(22, u"raw.txt"),
                                     file(23, u"chunks.txt", {fork.size(), {{100, 20}}}),
                                     file(24, u"other.txt"), file(25, u"broken.txt", {100, {{130, 1}}})}});
    const std::u16string name = u"com.apple.decmpfs";
    image.leaves(Image::attributes, {{attribute_record(21, name, decmpfs(3, 900, packed(small))),
                                      attribute_record(22, name, decmpfs(3, 900, raw(small))),
                                      attribute_record(23, name, decmpfs(4, 70'000)),
                                      attribute_record(24, name, decmpfs(8, 500)),
                                      attribute_record(25, name, decmpfs(4, 9000))}});
    const auto seen = read(image.bytes);
    EXPECT_EQ(content_of(image.bytes, *seen.find("inline.txt")), small);
    EXPECT_EQ(content_of(image.bytes, *seen.find("raw.txt")), small);
    EXPECT_EQ(content_of(image.bytes, *seen.find("chunks.txt")), large);
    EXPECT_FALSE(find_stream(seen, "chunks.txt", resource_fork_stream));
    for (const char* lost : {"other.txt", "broken.txt"}) {
        ASSERT_FALSE(seen.find(lost)->pieces.empty()) << lost;
        EXPECT_EQ(seen.find(lost)->pieces.back().kind, PieceKind::missing);
        EXPECT_TRUE(test::has_fact(*seen.find(lost), Fact::compressed));
    }
}

TEST(HfsPlusReader, FindsLeavesBehindADamagedIndexAndABrokenChain) {
    const auto leaves = [](Image& image) {
        image.leaves(Image::catalogue, {{file_record({21, 2, u"a.txt"})},
                                        {file_record({22, 2, u"b.txt"})},
                                        {file_record({23, 2, u"c.txt"})}});
    };
    Image chain;  // the chain runs in a circle
    leaves(chain);
    put_number(chain.bytes, chain.place(Image::catalogue, 2), 1, 4, true);
    Image index;  // the root is no node
    leaves(index);
    std::fill_n(index.bytes.begin() + static_cast<std::ptrdiff_t>(index.place(Image::catalogue, 4)), 100,
                std::uint8_t{0xEE});
    Image both = chain;
    std::fill_n(both.bytes.begin() + static_cast<std::ptrdiff_t>(both.place(Image::catalogue, 4)), 100,
                std::uint8_t{0xEE});
    for (const auto* image : {&chain, &index, &both}) {
        const auto seen = read(image->bytes);
        for (const char* name : {"a.txt", "b.txt", "c.txt"}) {
            ASSERT_TRUE(seen.find(name)) << name;
            EXPECT_EQ(seen.find(name)->origin, Origin::live);
        }
        EXPECT_FALSE(seen.diagnostics.empty());
    }
}

TEST(HfsPlusReader, FindsDeletedRecordsInFreeSpaceAndFreedNodes) {
    Image image;
    const auto text = sample_text("gone", 5000);
    image.fill(100, text);
    image.leaves(Image::catalogue, {{folder_record(20, 2, u"Scripts"), file_record({21, 20, u"kept.txt"})}});
    // After the used part of the leaf: a deleted file, an older state of a live one, a thread, a cut-off
    // record.
    auto at = image.place(Image::catalogue, 1) + 1200;
    for (const auto& r :
         {file_record({30, 20, u"gone.txt", {5000, {{100, 2}}}}), file_record({21, 20, u"first name.txt"}),
          thread_record(31, 50, u"thread only.txt")}) {
        image.put(at, r);
        at += r.size();
    }
    // In a node that nobody uses any more: the deleted folder of that thread, and an index key.
    image.node(Image::catalogue, 5, node_of(-1, {folder_record(50, 2, u"Old season")}));
    image.node(Image::catalogue, 6,
               node_of(0, {index_record(20, u"key only.txt", 3), index_record(20, u"kept.txt", 4)}));
    const auto seen = read(image.bytes);
    const auto *gone = seen.find("gone.txt"), *thread = seen.find("thread only.txt"),
               *bare = seen.find("key only.txt");
    ASSERT_TRUE(gone && thread && bare);
    EXPECT_EQ(gone->origin, Origin::deleted);
    EXPECT_EQ(gone->parent, seen.find("Scripts")->key);
    EXPECT_EQ(content_of(image.bytes, *gone), text);
    EXPECT_EQ(thread->parent, seen.find("Old season")->key);
    EXPECT_EQ(thread->layout, Layout::none);
    EXPECT_EQ(bare->layout, Layout::none);
    EXPECT_FALSE(seen.find("first name.txt"));
    EXPECT_EQ(seen.old_name_of(seen.find("kept.txt")->key), "Scripts/first name.txt");
    EXPECT_EQ(std::count_if(seen.entries.begin(), seen.entries.end(),
                            [](const Entry& e) { return e.name == "kept.txt"; }),
              1);
}

TEST(HfsPlusReader, NewestStateWinsAndNameOnlyHasNoLayout) {
    Image image;
    image.node(
        Image::catalogue, 4,
        node_of(-1, {file_record({30, 2, u"draft.txt", {5000, {{100, 2}}}, {}, 0, 0, 0, 0, when}),
                     file_record({30, 2, u"final.txt", {6000, {{102, 2}}}, {}, 0, 0, 0, 0, when + 100}),
                     file_record({31, 2, u"never written.txt"})}));
    const auto seen = read(image.bytes);
    ASSERT_TRUE(seen.find("final.txt"));
    EXPECT_FALSE(seen.find("draft.txt"));
    EXPECT_EQ(seen.find("final.txt")->size, 6000u);
    EXPECT_TRUE(test::has_fact(*seen.find("final.txt"), Fact::old_name));
    ASSERT_TRUE(seen.find("never written.txt"));
    EXPECT_EQ(seen.find("never written.txt")->layout, Layout::none);
}

TEST(HfsPlusReader, ReadsTheJournalInEitherByteOrder) {
    for (const bool big : {false, true}) {
        Image image(true);
        const auto text = sample_text("take", 5000);
        image.fill(100, text);
        image.leaves(Image::catalogue, {{file_record({21, 2, u"kept.txt"})}});
        const auto before = node_of(
            -1, {file_record({21, 2, u"kept.txt"}), file_record({30, 2, u"take 1.wav", {5000, {{100, 2}}}})});
        image.transaction(image.place(Image::catalogue, 1), before, big);
        // The second transaction comes in two halves of the node.
        const auto later = node_of(-1, {file_record({31, 2, u"take 2.wav", {5000, {{104, 2}}}})});
        image.transaction(image.place(Image::catalogue, 2), {later.begin(), later.begin() + 2048}, big);
        image.transaction(image.place(Image::catalogue, 2) + 2048, {later.begin() + 2048, later.end()}, big);
        const auto seen = read(image.bytes);
        ASSERT_TRUE(seen.find("take 1.wav") && seen.find("take 2.wav")) << big;
        EXPECT_EQ(content_of(image.bytes, *seen.find("take 1.wav")), text);
        EXPECT_TRUE(test::has_fact(*seen.find("take 1.wav"), Fact::from_journal));
        EXPECT_EQ(seen.entries.size(), 3u);
    }
}

TEST(HfsPlusReader, UnpacksDeletedFilesByAttributesInTheJournal) {
    Image image(true);
    const auto text = sample_text("small", 900);
    FileSpec file{30, 2, u"packed.txt"};
    file.owner_flags = 0x20;
    image.transaction(image.place(Image::catalogue, 1), node_of(-1, {file_record(file)}));
    image.transaction(
        image.place(Image::attributes, 1),
        node_of(-1, {attribute_record(30, u"org.example.mark", raw("x")),
                     attribute_record(30, u"com.apple.decmpfs", decmpfs(3, 900, packed(text)))}));
    const auto seen = read(image.bytes);
    ASSERT_TRUE(seen.find("packed.txt"));
    EXPECT_EQ(content_of(image.bytes, *seen.find("packed.txt")), text);
}

TEST(HfsPlusReader, LastNameInTheJournalWins) {
    Image image(true);
    image.leaves(Image::catalogue, {{file_record({21, 2, u"kept.txt"})}});
    const auto draft = file_record({30, 2, u"draft.wav", {5000, {{100, 2}}}}),
               final = file_record({30, 2, u"final.wav", {5000, {{100, 2}}}});
    image.transaction(image.place(Image::catalogue, 1), node_of(-1, {draft}));
    // After the renaming the old record still is in free space, and is written out again with it.
    auto later = node_of(-1, {final});
    std::copy(draft.begin(), draft.end(), later.begin() + 1000);
    image.transaction(image.place(Image::catalogue, 1), later);
    const auto seen = read(image.bytes);
    ASSERT_TRUE(seen.find("final.wav"));
    EXPECT_FALSE(seen.find("draft.wav"));
    EXPECT_TRUE(test::has_fact(*seen.find("final.wav"), Fact::old_name));
}

TEST(HfsPlusReader, StepsOverTransactionsThatAreCutOrBroken) {
    Image image(true);
    const auto record = [](std::uint32_t id, const std::u16string& name) {
        return node_of(-1, {file_record({id, 2, name, {5000, {{100 + id, 2}}}})});
    };
    image.transaction(image.place(Image::catalogue, 1), record(30, u"one.wav"));
    image.transaction(image.place(Image::catalogue, 2), record(31, u"two.wav"));
    image.transaction(image.place(Image::catalogue, 3), record(32, u"three.wav"));
    const auto second = 31 * block + 512 + 8192;
    image.bytes[second + 4] ^= 0x40;  // its length, which the checksum covers
    const auto seen = read(image.bytes);
    EXPECT_TRUE(seen.find("one.wav") && seen.find("three.wav"));
    EXPECT_FALSE(seen.find("two.wav"));
    auto cut = image.bytes;
    cut.resize(31 * block + 6000);
    read(cut);
    auto lying = image.bytes;
    put_number(lying, 31 * block + 24, ~0ull, 8);
    EXPECT_FALSE(read(lying).diagnostics.empty());
}

TEST(HfsPlusReader, SurvivesFlippedBytes) {
    Image image(true);
    image.leaves(
        Image::catalogue,
        {{folder_record(20, 2, u"Scripts"), file_record({21, 20, u"kept.txt", {5000, {{100, 2}}, 3}})},
         {file_record({22, 20, u"packed.txt", {}, {3000, {{110, 1}}}, 0, 0, 0, 0x20})}});
    image.leaves(Image::extents, {{overflow_record(21, 2, {{104, 1}})}});
    image.leaves(Image::attributes, {{attribute_record(22, u"com.apple.decmpfs", decmpfs(4, 100'000))}});
    image.transaction(image.place(Image::catalogue, 1),
                      node_of(-1, {file_record({30, 2, u"gone.wav", {5000, {{120, 2}}}})}));
    std::mt19937 random(6);
    const auto flip_in = [&](std::size_t from, std::size_t length, std::size_t step) {
        for (std::size_t i = 0; i < length; i += step) {
            auto bytes = image.bytes;
            bytes[from + i] = static_cast<std::uint8_t>(random() % 3 ? random() : 0xFF);
            for (const auto& e : read(bytes).entries) ASSERT_LE(e.pieces.size(), 2000u);
        }
    };
    flip_in(1024, 512, 3);
    for (const auto tree : {Image::extents, Image::catalogue, Image::attributes}) {
        flip_in(image.place(tree), 60, 2);
        for (std::uint32_t n = 1; n <= 3; ++n) {
            flip_in(image.place(tree, n), 400, 7);
            flip_in(image.place(tree, n) + node_size - 12, 12, 1);
        }
    }
    flip_in(30 * block, 52, 2);
    flip_in(31 * block, 48, 1);
    flip_in(31 * block + 512, 64, 1);
    flip_in(110 * block, 8, 1);
}

TEST(HfsPlusReader, IsFoundInsideAWrapper) {
    const Image inner;
    ByteVector bytes(64 << 10);
    put_number(bytes, 1024, kHFSSigWord, 2, true);
    put_number(bytes, 1024 + 20, 4096, 4, true);
    put_number(bytes, 1024 + 28, 16, 2, true);
    put_number(bytes, 1024 + 124, kHFSPlusSigWord, 2, true);
    put_number(bytes, 1024 + 126, 14, 2, true);
    bytes.resize(16 * 512 + 14 * 4096);
    bytes.insert(bytes.end(), inner.bytes.begin(), inner.bytes.end());
    const auto source = test::memory_source(bytes);
    const auto found = file_system().recognise(*source, 0);
    ASSERT_TRUE(found);
    EXPECT_EQ(found->volume.offset, 16u * 512 + 14 * 4096);
    EXPECT_EQ(found->volume.label, "CUES");
}

}  // namespace undershelf::hfsplus
