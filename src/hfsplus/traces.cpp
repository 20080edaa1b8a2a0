#include "hfsplus/traces.hpp"

#include <algorithm>

#include "hfsplus/btree.hpp"

namespace undershelf::hfsplus {

namespace {

constexpr std::size_t sector = 512;
constexpr std::uint32_t largest_node = 32 << 10;

std::uint32_t number(Bytes bytes, std::size_t at, std::size_t length) {
    std::uint32_t out = 0;
    for (std::size_t i = 0; i < length; ++i) out = out << 8 | (at + i < bytes.size() ? bytes[at + i] : 0);
    return out;
}

/// Which tree a record is a leaf record of, and the id its key begins with.
struct Kind {
    Tree tree;
    std::uint32_t id;
};
std::optional<Kind> kind_of(Bytes record) {
    const auto key = number(record, 0, 2);
    if (key + 4 > record.size()) return std::nullopt;
    const auto data = 2 + key;
    if (key >= 6 && key == 6 + 2 * number(record, 6, 2) && number(record, 6, 2) <= 255) {
        const auto type = number(record, data, 2);
        const auto id = number(record, 2, 4);
        if (type >= kHFSPlusFolderRecord && type <= kHFSPlusFileThreadRecord && id > 0)
            return Kind{Tree::catalogue, id};
    }
    if (key == 10 && record.size() == data + 64 && (record[2] == 0 || record[2] == 0xFF) && record[3] == 0)
        return Kind{Tree::extents, number(record, 4, 4)};
    if (key >= 12 && key == 12 + 2 * number(record, 12, 2) && number(record, 2, 2) == 0) {
        const auto type = number(record, data, 4);
        if (type >= kHFSPlusAttrInlineData && type <= 0x30 && type % 0x10 == 0)
            return Kind{Tree::attributes, number(record, 4, 4)};
    }
    return std::nullopt;
}

/// When the item of a catalogue record was made; 0 for threads.
std::uint32_t created_in(Bytes record) {
    const auto data = 2 + number(record, 0, 2);
    return number(record, data, 2) <= kHFSPlusFileRecord ? number(record, data + 12, 4) : 0;
}

/// An index record of a catalogue: a key with a name, and the number of a node.
std::optional<std::uint32_t> index_parent(Bytes record) {
    const auto key = number(record, 0, 2);
    const bool fits = key >= 6 && key == 6 + 2 * number(record, 6, 2) && record.size() == key + 6 &&
                      number(record, 2 + key, 4) != 0 && number(record, 2, 4) != 0;
    return fits ? std::optional(number(record, 2, 4)) : std::nullopt;
}

std::optional<NodeTrace> index_in(Bytes bytes) {
    const auto node = Node::parse(bytes);
    if (!node || node->kind() != kBTIndexNode || node->records() == 0) return std::nullopt;
    NodeTrace out;
    for (std::size_t i = 0; i < node->records(); ++i) {
        const auto parent = index_parent(node->record(i));
        if (!parent || *parent < out.last_id) return std::nullopt;
        if (i == 0) out.first_id = *parent;
        out.last_id = *parent;
    }
    out.is_index = true;
    out.size = static_cast<std::uint32_t>(bytes.size());
    out.records = static_cast<std::uint16_t>(node->records());
    return out;
}

/// A leaf whose records are all of one tree and in the order of their ids.
std::optional<NodeTrace> leaf_in(Bytes bytes) {
    const auto node = Node::parse(bytes);
    if (!node || node->kind() != kBTLeafNode || node->records() == 0) return std::nullopt;
    const auto d = *load<BTNodeDescriptor>(bytes);
    NodeTrace out;
    std::vector<std::uint32_t> dates;
    for (std::size_t i = 0; i < node->records(); ++i) {
        const auto kind = kind_of(node->record(i));
        if (!kind || (i > 0 && (kind->tree != out.tree))) return std::nullopt;
        // Of extents the kind of fork comes second in the key, and the id decides all the same.
        if (i > 0 && kind->id < out.last_id) return std::nullopt;
        if (i == 0) out.first_id = kind->id;
        const auto made = kind->tree == Tree::catalogue ? created_in(node->record(i)) : 0;
        if (made) dates.push_back(made);
        out.tree = kind->tree;
        out.last_id = kind->id;
    }
    if (!dates.empty()) {
        const auto middle = dates.begin() + static_cast<std::ptrdiff_t>((dates.size() - 1) / 2);
        std::nth_element(dates.begin(), middle, dates.end());
        out.made = *middle;
    }
    out.size = static_cast<std::uint32_t>(bytes.size());
    out.next = d.fLink.value();
    out.previous = d.bLink.value();
    out.records = static_cast<std::uint16_t>(node->records());
    return out;
}

}  // namespace

Trace trace_of(const NodeTrace& n) {
    ByteVector data;
    for (const auto value : {n.first_id, n.last_id, n.made}) {
        for (int shift = 24; shift >= 0; shift -= 8)
            data.push_back(static_cast<std::uint8_t>(value >> shift));
    }
    return {node_trace, n.offset, std::uint64_t{n.next} << 32 | n.previous,
            static_cast<std::uint64_t>(n.tree) | std::uint64_t{n.records} << 8 |
                std::uint64_t{n.is_index} << 24 | std::uint64_t{n.size} << 32,
            std::move(data)};
}

std::optional<NodeTrace> node_of(const Trace& t) {
    const auto tree = t.b & 0xFF;
    const auto size = t.b >> 32;
    if (t.kind != node_trace || tree < 1 || tree > 3 || size < sector || size > largest_node ||
        !is_power_of_two(size))
        return std::nullopt;
    NodeTrace out;
    out.offset = t.offset;
    out.tree = static_cast<Tree>(tree);
    out.size = static_cast<std::uint32_t>(size);
    out.next = static_cast<std::uint32_t>(t.a >> 32);
    out.previous = static_cast<std::uint32_t>(t.a);
    out.records = static_cast<std::uint16_t>(t.b >> 8);
    out.is_index = (t.b >> 24 & 1) != 0;
    out.first_id = number(t.data, 0, 4);
    out.last_id = number(t.data, 4, 4);
    out.made = number(t.data, 8, 4);
    return out;
}

void find_traces(const SweepBuffer& buffer, TraceSink& sink) {
    for (std::size_t at = (sector - buffer.offset % sector) % sector;
         at < buffer.owned && at + sector <= buffer.bytes.size(); at += sector) {
        const auto* p = buffer.bytes.data() + at;
        // Descriptor: a leaf has kind -1 and height 1, an index node kind 0 and more; two bytes are reserved,
        // and the first record begins at 14.
        const bool leaf_like = p[8] == 0xFF && p[9] == 1, index_like = p[8] == 0 && p[9] >= 2 && p[9] <= 16;
        if ((!leaf_like && !index_like) || p[12] != 0 || p[13] != 0) continue;
        for (std::uint32_t size = sector; size <= largest_node; size *= 2) {
            if (at + size > buffer.bytes.size()) break;
            if (p[size - 2] != 0 || p[size - 1] != sizeof(BTNodeDescriptor)) continue;
            const auto bytes = buffer.bytes.subspan(at, size);
            auto node = leaf_like ? leaf_in(bytes) : index_in(bytes);
            if (!node) continue;
            node->offset = buffer.offset + at;
            sink.trace(trace_of(*node));
            break;
        }
    }
}

}  // namespace undershelf::hfsplus
