#pragma once
// .DS_Store files for tests: the allocator, the tree's head and one or two nodes.

#include <algorithm>
#include <string_view>

#include "base/bytes.hpp"

namespace undershelf::test::ds_store {

inline void put(ByteVector& b, std::uint32_t v) {
    for (int shift = 24; shift >= 0; shift -= 8) b.push_back(static_cast<std::uint8_t>(v >> shift));
}
inline void put(ByteVector& b, std::string_view code) {
    b.insert(b.end(), code.begin(), code.end());
}
inline void put_text(ByteVector& b, std::u16string_view text) {
    put(b, static_cast<std::uint32_t>(text.size()));
    for (const auto c : text) {
        b.push_back(static_cast<std::uint8_t>(c >> 8));
        b.push_back(static_cast<std::uint8_t>(c & 0xFF));
    }
}
inline void put_record(ByteVector& b, std::u16string_view name, std::string_view what,
                       std::u16string_view value) {
    put_text(b, name);
    put(b, what);
    put(b, "ustr");
    put_text(b, value);
}

/// Blocks: 0 the allocator at 2048, 1 the tree's head at 64, 2 its only node or its root at 4096, 3 a leaf.
inline ByteVector store(const ByteVector& node, const ByteVector& leaf = {}) {
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

inline ByteVector leaf_with(std::u16string_view name, std::u16string_view folder, std::u16string_view was) {
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

}  // namespace undershelf::test::ds_store
