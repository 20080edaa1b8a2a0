#include "bins/ds_store.hpp"

#include <gtest/gtest.h>

namespace undershelf {

namespace {

void put(ByteVector& b, std::uint32_t v) {
    for (int shift = 24; shift >= 0; shift -= 8) b.push_back(static_cast<std::uint8_t>(v >> shift));
}
void put(ByteVector& b, std::string_view code) {
    b.insert(b.end(), code.begin(), code.end());
}
void put_text(ByteVector& b, std::u16string_view text) {
    put(b, static_cast<std::uint32_t>(text.size()));
    for (const auto c : text) {
        b.push_back(static_cast<std::uint8_t>(c >> 8));
        b.push_back(static_cast<std::uint8_t>(c & 0xFF));
    }
}
void put_record(ByteVector& b, std::u16string_view name, std::string_view what, std::u16string_view value) {
    put_text(b, name);
    put(b, what);
    put(b, "ustr");
    put_text(b, value);
}

/// Blocks: 0 the allocator at 2048, 1 the tree's head at 64, 2 its only node or its root at 4096, 3 a leaf.
ByteVector store(const ByteVector& node, const ByteVector& leaf = {}) {
    ByteVector out;
    put(out, 1u);
    put(out, "Bud1");
    for (const std::uint32_t v : {2048u, 1024u * 2, 2048u}) put(out, v);
    const auto at = [&](std::size_t offset, const ByteVector& bytes) {
        out.resize(std::max(out.size(), offset + 4 + bytes.size()));
        std::copy(bytes.begin(), bytes.end(), out.begin() + static_cast<std::ptrdiff_t>(offset + 4));
    };
    ByteVector head, allocator;
    for (const std::uint32_t v : {2u, 0u, 2u, 1u, 4096u}) put(head, v);
    put(allocator, 4u);
    put(allocator, 0u);
    for (const std::uint32_t v : {2048u | 11, 64u | 5, 4096u | 12, 8192u | 12}) put(allocator, v);
    for (int i = 4; i < 256; ++i) put(allocator, 0u);
    put(allocator, 1u);
    allocator.push_back(4);
    put(allocator, "DSDB");
    put(allocator, 1u);
    at(64, head);
    at(2048, allocator);
    at(4096, node);
    at(8192, leaf);
    out.resize(8192 + 4096 + 4);
    return out;
}

ByteVector leaf_with(std::u16string_view name, std::u16string_view folder, std::u16string_view was) {
    ByteVector b;
    put(b, 0u);
    put(b, 3u);
    put_text(b, name);
    put(b, "Iloc");
    put(b, "blob");
    put(b, 16u);
    b.resize(b.size() + 16);
    put_record(b, name, "ptbL", folder);
    put_record(b, name, "ptbN", was);
    return b;
}

}  // namespace

TEST(DsStore, TellsWhereThingsAreToBePutBackTo) {
    const auto records = parse_ds_store(store(leaf_with(u"owl 2.wav", u"Sound/Night/", u"owl.wav")));
    ASSERT_EQ(records.size(), 1u);
    EXPECT_EQ(records[0].name, "owl 2.wav");
    EXPECT_EQ(records[0].first_path, "Sound/Night/owl.wav");
}

TEST(DsStore, ReadsATreeOfTwoLevels) {
    ByteVector root;
    put(root, 3u);  // the block behind the last record
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

}  // namespace undershelf
