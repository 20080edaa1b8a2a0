#include "support/hfsplus_image.hpp"

#include <algorithm>
#include <cstring>

#include "hfsplus/file_system.hpp"
#include "support/disk_image.hpp"

namespace undershelf::test::hfsplus {

namespace {

constexpr std::size_t size = 4 << 20, tree_nodes = 8;
constexpr std::uint32_t tree_blocks[] = {4, 12, 20};
constexpr std::size_t journal_info = 30, journal = 31, journal_size = 32 * block, list_size = 4096;

void big(ByteVector& b, std::size_t at, std::uint64_t value, int bytes) {
    put_number(b, at, value, bytes, true);
}

ByteVector key(std::uint32_t parent, const std::u16string& name) {
    ByteVector k(8 + name.size() * 2);
    big(k, 0, 6 + name.size() * 2, 2);
    big(k, 2, parent, 4);
    big(k, 6, name.size(), 2);
    for (std::size_t i = 0; i < name.size(); ++i) big(k, 8 + i * 2, name[i], 2);
    return k;
}

void put_extents(ByteVector& b, std::size_t at,
                 const std::vector<std::pair<std::uint32_t, std::uint32_t>>& extents) {
    for (const auto& [start, count] : extents) {
        big(b, at, start, 4);
        big(b, at + 4, count, 4);
        at += 8;
    }
}

void put_fork(ByteVector& b, std::size_t at, const ForkSpec& f) {
    std::uint32_t blocks = f.blocks;
    if (!blocks) {
        for (const auto& e : f.extents) blocks += e.second;
    }
    big(b, at, f.size, 8);
    big(b, at + 12, blocks, 4);
    put_extents(b, at + 16, f.extents);
}

void put_head(ByteVector& b, std::size_t at, int type, std::uint32_t id, std::uint32_t changed) {
    big(b, at, static_cast<std::uint64_t>(type), 2);
    big(b, at + 8, id, 4);
    for (const std::size_t date : {12u, 16u, 24u}) big(b, at + date, when, 4);
    big(b, at + 20, changed, 4);
}

std::uint32_t checksum(Bytes bytes) {
    std::uint32_t sum = 0;
    for (const auto b : bytes) sum = (sum << 8) ^ (sum + b);
    return ~sum;
}

}  // namespace

ByteVector file_record(const FileSpec& f) {
    auto r = key(f.parent, f.name);
    const auto at = r.size();
    r.resize(at + 248);
    put_head(r, at, 2, f.id, f.changed);
    r[at + 41] = f.owner_flags;
    big(r, at + 44, f.special, 4);
    big(r, at + 48, f.type, 4);
    big(r, at + 52, f.creator, 4);
    put_fork(r, at + 88, f.data);
    put_fork(r, at + 168, f.resource);
    return r;
}

ByteVector folder_record(std::uint32_t id, std::uint32_t parent, const std::u16string& name) {
    auto r = key(parent, name);
    const auto at = r.size();
    r.resize(at + 88);
    put_head(r, at, 1, id, when);
    return r;
}

ByteVector thread_record(std::uint32_t id, std::uint32_t parent, const std::u16string& name, bool is_dir) {
    auto r = key(id, u"");
    const auto at = r.size();
    r.resize(at + 10 + name.size() * 2);
    big(r, at, is_dir ? 3 : 4, 2);
    big(r, at + 4, parent, 4);
    big(r, at + 8, name.size(), 2);
    for (std::size_t i = 0; i < name.size(); ++i) big(r, at + 10 + i * 2, name[i], 2);
    return r;
}

ByteVector overflow_record(std::uint32_t id, std::uint32_t start_block,
                           const std::vector<std::pair<std::uint32_t, std::uint32_t>>& extents) {
    ByteVector r(76);
    big(r, 0, 10, 2);
    big(r, 4, id, 4);
    big(r, 8, start_block, 4);
    put_extents(r, 12, extents);
    return r;
}

ByteVector attribute_record(std::uint32_t id, const std::u16string& name, Bytes data) {
    ByteVector r(14 + name.size() * 2 + 16);
    big(r, 0, 12 + name.size() * 2, 2);
    big(r, 4, id, 4);
    big(r, 12, name.size(), 2);
    for (std::size_t i = 0; i < name.size(); ++i) big(r, 14 + i * 2, name[i], 2);
    const auto at = 14 + name.size() * 2;
    big(r, at, 0x10, 4);
    big(r, at + 12, data.size(), 4);
    r.insert(r.end(), data.begin(), data.end());
    if (r.size() % 2) r.push_back(0);
    return r;
}

ByteVector decmpfs(std::uint32_t type, std::uint64_t size_unpacked, Bytes data) {
    ByteVector r(16);
    std::memcpy(r.data(), "fpmc", 4);
    put_number(r, 4, type, 4);
    put_number(r, 8, size_unpacked, 8);
    r.insert(r.end(), data.begin(), data.end());
    return r;
}

ByteVector index_record(std::uint32_t parent, const std::u16string& name, std::uint32_t child) {
    auto r = key(parent, name);
    r.resize(r.size() + 4);
    big(r, r.size() - 4, child, 4);
    return r;
}

ByteVector node_of(std::int8_t kind, const std::vector<ByteVector>& records, std::uint32_t next) {
    ByteVector n(node_size);
    big(n, 0, next, 4);
    n[8] = static_cast<std::uint8_t>(kind);
    n[9] = kind == -1 ? 1 : kind == 0 ? 2 : 0;
    big(n, 10, records.size(), 2);
    std::size_t at = 14, entry = node_size - 2;
    for (const auto& r : records) {
        big(n, entry, at, 2);
        std::copy(r.begin(), r.end(), n.begin() + static_cast<std::ptrdiff_t>(at));
        at += r.size();
        entry -= 2;
    }
    big(n, entry, at, 2);
    return n;
}

Image::Image(bool with_journal) : bytes(size) {
    const std::size_t h = 1024;
    big(bytes, h, 0x482B, 2);
    big(bytes, h + 2, 4, 2);
    big(bytes, h + 4, with_journal ? 1u << 13 : 0, 4);
    big(bytes, h + 12, with_journal ? journal_info : 0, 4);
    for (const std::size_t date : {16u, 20u, 28u}) big(bytes, h + date, when, 4);
    big(bytes, h + 40, block, 4);
    big(bytes, h + 44, size / block, 4);
    big(bytes, h + 64, 1000, 4);
    put_fork(bytes, h + 112, {block, {{2, 1}}});
    for (int t = 0; t < 3; ++t)
        put_fork(bytes, h + 192 + static_cast<std::size_t>(t) * 80,
                 {tree_nodes * node_size, {{tree_blocks[t], 8}}});
    std::copy_n(bytes.begin() + 1024, 512, bytes.end() - 1024);
    // All the structures' blocks are in use.
    for (std::size_t b = 0; b < 64; ++b) bytes[2 * block + b / 8] |= static_cast<std::uint8_t>(0x80 >> b % 8);
    for (const auto tree : {extents, catalogue, attributes}) header_node(tree, 0, 0, 0, 0, 1);
    leaves(catalogue, {{}});
    if (!with_journal) return;
    const auto info = journal_info * block;
    big(bytes, info, 1, 4);
    big(bytes, info + 36, journal * block, 8);
    big(bytes, info + 44, journal_size, 8);
    // The journal's own head; its end is where the next transaction goes, which is the start of the ring
    // here.
    const auto head = journal * block;
    put_number(bytes, head, 0x4A4E4C78, 4);
    put_number(bytes, head + 4, 0x12345678, 4);
    put_number(bytes, head + 8, 512, 8);
    put_number(bytes, head + 16, 512, 8);
    put_number(bytes, head + 24, journal_size, 8);
    put_number(bytes, head + 32, list_size, 4);
    put_number(bytes, head + 40, 512, 4);
}

std::size_t Image::place(Tree tree, std::uint32_t n) const {
    return tree_blocks[tree] * block + n * node_size;
}

void Image::put(std::size_t at, Bytes what) {
    std::copy(what.begin(), what.end(), bytes.begin() + static_cast<std::ptrdiff_t>(at));
}

void Image::fill(std::uint32_t at_block, const std::string& content) {
    put(at_block * block, {reinterpret_cast<const std::uint8_t*>(content.data()), content.size()});
}

void Image::node(Tree tree, std::uint32_t n, const ByteVector& node_bytes) {
    put(place(tree, n), node_bytes);
}

void Image::header_node(Tree tree, std::uint32_t depth, std::uint32_t root, std::uint32_t first,
                        std::uint32_t last, std::uint32_t used) {
    ByteVector header(106), user(128), map(node_size - 14 - 106 - 128 - 8);
    big(header, 0, depth, 2);
    big(header, 2, root, 4);
    big(header, 10, first, 4);
    big(header, 14, last, 4);
    big(header, 18, node_size, 2);
    big(header, 22, tree_nodes, 4);
    for (std::uint32_t i = 0; i < used; ++i) map[i / 8] |= static_cast<std::uint8_t>(0x80 >> i % 8);
    node(tree, 0, node_of(1, {header, user, map}));
}

void Image::leaves(Tree tree, const std::vector<std::vector<ByteVector>>& all) {
    const auto count = static_cast<std::uint32_t>(all.size());
    std::vector<ByteVector> index;
    for (std::uint32_t i = 0; i < count; ++i) {
        auto records = all[i];
        if (tree == catalogue && i == 0) {
            records.insert(records.begin(), thread_record(2, 1, u"CUES", true));
            records.insert(records.begin(), folder_record(2, 1, u"CUES"));
        }
        node(tree, i + 1, node_of(-1, records, i + 1 < count ? i + 2 : 0));
        index.push_back(index_record(i + 1, u"key", i + 1));
    }
    if (count > 1) node(tree, count + 1, node_of(0, index));
    header_node(tree, count > 1 ? 2 : 1, count > 1 ? count + 1 : 1, 1, count, count + 1 + (count > 1));
}

void Image::transaction(std::size_t target, const ByteVector& image, bool big_endian) {
    const auto at = journal * block + journal_end_;
    ByteVector list(list_size);
    put_number(list, 0, (list_size - 16) / 16, 2, big_endian);
    put_number(list, 2, 2, 2, big_endian);
    put_number(list, 4, list_size + image.size(), 4, big_endian);
    put_number(list, 32, target / 512, 8, big_endian);
    put_number(list, 40, image.size(), 4, big_endian);
    put_number(list, 8, checksum(Bytes(list).first(32)), 4, big_endian);
    put(at, list);
    put(at + list_size, image);
    journal_end_ += list_size + image.size();
    if (!big_endian) return;
    const auto head = journal * block;
    const std::pair<std::size_t, int> fields[] = {{0, 4}, {4, 4}, {8, 8}, {16, 8}, {24, 8}, {32, 4}, {40, 4}};
    if (bytes[head] == 0x4A) return;  // turned already
    for (const auto& [field, width] : fields)
        std::reverse(bytes.begin() + static_cast<std::ptrdiff_t>(head + field),
                     bytes.begin() + static_cast<std::ptrdiff_t>(head + field) + width);
}

Collector read(const ByteVector& bytes) {
    return read_volume(undershelf::hfsplus::file_system(), bytes);
}

const Entry* find_stream(const Collector& seen, const std::string& name, const std::string& stream) {
    for (const auto& e : seen.entries) {
        if (e.name == name && e.stream == stream) return &e;
    }
    return nullptr;
}

}  // namespace undershelf::test::hfsplus
