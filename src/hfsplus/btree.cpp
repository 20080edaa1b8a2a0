#include "hfsplus/btree.hpp"

#include <fmt/format.h>
#include <tbb/blocked_range.h>
#include <tbb/parallel_for.h>

#include <algorithm>

namespace undershelf::hfsplus {

namespace {

constexpr std::size_t descriptor_size = sizeof(BTNodeDescriptor);
constexpr std::uint64_t nodes_at_a_time = 128;

std::size_t number_at(Bytes bytes, std::size_t at) {
    return static_cast<std::size_t>(bytes[at] << 8 | bytes[at + 1]);
}

}  // namespace

std::optional<Node> Node::parse(Bytes bytes) {
    const auto d = load<BTNodeDescriptor>(bytes);
    if (!d || d->kind < kBTLeafNode || d->kind > kBTMapNode || d->reserved.value() != 0) return std::nullopt;
    Node node;
    node.bytes_ = bytes;
    node.kind_ = d->kind;
    node.next_ = d->fLink.value();
    node.records_ = d->numRecords.value();
    const auto table = (node.records_ + 1) * 2;
    if (table + descriptor_size > bytes.size()) return std::nullopt;
    std::size_t before = descriptor_size;
    for (std::size_t i = 0; i <= node.records_; ++i) {
        const auto at = node.record_offset(i);
        if ((i == 0 && at != descriptor_size) || (i > 0 && at <= before) || at > bytes.size() - table ||
            at % 2)
            return std::nullopt;
        before = at;
    }
    return node;
}

std::optional<Node> Node::parse_rest(Bytes bytes, const RecordLength& length) {
    auto by_table = by_offsets(bytes), by_length = length ? walked(bytes, length) : std::nullopt;
    if (!by_table || (by_length && by_length->records_ > by_table->records_)) return by_length;
    return by_table;
}

std::optional<Node> Node::by_offsets(Bytes bytes) {
    if (bytes.size() < descriptor_size + 4) return std::nullopt;
    Node node;
    node.bytes_ = bytes;
    node.kind_ = kBTLeafNode;
    std::size_t offsets = 0, before = 0;
    const auto most = (bytes.size() - descriptor_size) / 2;
    for (; offsets < most; ++offsets) {
        const auto at = node.record_offset(offsets);
        const bool fits = offsets == 0 ? at == descriptor_size
                                       : at > before && at % 2 == 0 && at + 2 * (offsets + 1) <= bytes.size();
        if (!fits) break;
        before = at;
    }
    if (offsets < 2) return std::nullopt;
    node.records_ = offsets - 1;
    return node;
}

std::optional<Node> Node::walked(Bytes bytes, const RecordLength& length) {
    const auto d = load<BTNodeDescriptor>(bytes);
    if (!d || d->kind != kBTLeafNode || d->reserved.value() != 0) return std::nullopt;
    Node node;
    node.bytes_ = bytes;
    node.kind_ = kBTLeafNode;
    node.next_ = d->fLink.value();
    node.walked_.push_back(descriptor_size);
    while (node.records_ < d->numRecords.value()) {
        const auto record = length(bytes.subspan(node.walked_.back()));
        if (record == 0) break;
        node.walked_.push_back(node.walked_.back() + record);
        ++node.records_;
    }
    if (node.records_ == 0) return std::nullopt;
    return node;
}

std::size_t Node::record_offset(std::size_t index) const {
    return walked_.empty() ? number_at(bytes_, bytes_.size() - 2 * (index + 1)) : walked_[index];
}

Bytes Node::record(std::size_t index) const {
    const auto from = record_offset(index);
    return bytes_.subspan(from, record_offset(index + 1) - from);
}

Bytes Node::free_space() const {
    const auto from = free_offset();
    return bytes_.subspan(from, bytes_.size() - 2 * (records_ + 1) - from);
}

BTree::BTree(Fork fork, std::uint64_t most_bytes, Node::RecordLength length)
    : fork_(std::move(fork)), length_(std::move(length)) {
    ByteVector head(512);
    fork_.read(0, head);
    const auto node = load<BTNodeDescriptor>(head);
    const auto header = load<BTHeaderRec>(head, descriptor_size);
    const std::uint32_t size = header->nodeSize.value();
    if (node->kind != kBTHeaderNode || size < 512 || size > 32768 || !is_power_of_two(size)) return;
    header_ = *header;
    node_size_ = size;
    nodes_ = std::min(fork_.size(), most_bytes) / size;
}

BTree::BTree(Fork fork, std::uint32_t node_size, std::vector<NodeUse> uses)
    : fork_(std::move(fork)), node_size_(node_size), nodes_(uses.size()), uses_(std::move(uses)) {}

void BTree::read(std::uint64_t first, std::uint64_t count, ByteVector& out) const {
    out.resize(static_cast<std::size_t>(count) * node_size_);
    fork_.read(first * node_size_, out);
}

/// What one pass over all nodes tells.
struct BTree::Look {
    struct Glance {
        std::uint32_t next = 0;
        bool valid = false;
        std::int8_t kind = 0;
        bool is_rest = false;  ///< no node any more, but records of a leaf may be left
    };
    std::vector<Glance> glances;
};

BTree::Look BTree::look() const {
    Look out;
    out.glances.resize(nodes_);
    using Range = tbb::blocked_range<std::uint64_t>;
    tbb::parallel_for(Range(0, nodes_, nodes_at_a_time), [&](const Range& range) {
        ByteVector bytes;
        read(range.begin(), range.size(), bytes);
        for (auto n = range.begin(); n < range.end(); ++n) {
            const auto at = Bytes(bytes).subspan((n - range.begin()) * node_size_, node_size_);
            const auto node = Node::parse(at);
            if (node)
                out.glances[n] = {node->next(), true, node->kind()};
            else
                out.glances[n].is_rest = rest_of(at).has_value();
        }
    });
    return out;
}

/// Marks the leaves of the chain; false when it breaks off or runs in a circle.
bool BTree::follow_chain(const Look& look) {
    std::uint64_t n = header_.firstLeafNode.value(), last = 0;
    while (n != 0) {
        if (n >= nodes_ || !look.glances[n].valid || look.glances[n].kind != kBTLeafNode ||
            uses_[n] != NodeUse::unused)
            return false;
        uses_[n] = NodeUse::leaf;
        last = n;
        n = look.glances[n].next;
    }
    return last == header_.lastLeafNode.value();
}

/// Marks everything under the root; false when a part of it is not what it should be.
bool BTree::walk_index(const Look& look) {
    std::vector<bool> seen(nodes_);
    std::vector<std::uint64_t> open{header_.rootNode.value()};
    if (open[0] == 0) return header_.leafRecords.value() == 0;
    bool sound = true;
    ByteVector bytes;
    while (!open.empty()) {
        const auto n = open.back();
        open.pop_back();
        if (n == 0 || n >= nodes_ || !look.glances[n].valid || seen[n]) {
            sound = false;
            if (n > 0 && n < nodes_ && look.glances[n].is_rest) uses_[n] = NodeUse::leaf;
            continue;
        }
        seen[n] = true;
        if (look.glances[n].kind == kBTLeafNode) {
            uses_[n] = NodeUse::leaf;
            continue;
        }
        if (look.glances[n].kind != kBTIndexNode) {
            sound = false;
            continue;
        }
        uses_[n] = NodeUse::index;
        read(n, 1, bytes);
        const auto node = Node::parse(bytes);
        for (std::size_t i = 0; node && i < node->records(); ++i) {
            // Key, then the number of the node below it.
            const auto record = node->record(i);
            const auto key = record.size() >= 2 ? 2 + number_at(record, 0) : 0;
            const auto child = load<big_uint32_buf_t>(record, key);
            if (child && key) {
                open.push_back(child->value());
            } else {
                sound = false;
            }
        }
    }
    return sound;
}

/// The map of used nodes: the third record of the header node, then the only records of the map nodes.
void BTree::read_map(std::vector<bool>& used) const {
    used.assign(nodes_, false);
    std::uint64_t n = 0, bit = 0;
    ByteVector bytes;
    for (std::uint64_t steps = 0; steps < nodes_ && bit < nodes_; ++steps) {
        read(n, 1, bytes);
        const auto node = Node::parse(bytes);
        const std::size_t index = n == 0 ? 2 : 0;
        if (!node || node->kind() != (n == 0 ? kBTHeaderNode : kBTMapNode) || node->records() <= index)
            return;
        for (const auto byte : node->record(index)) {
            for (int i = 7; i >= 0 && bit < nodes_; --i) used[bit++] = byte >> i & 1;
        }
        n = node->next();
        if (n == 0 || n >= nodes_) return;
    }
}

void BTree::find_leaves(const std::function<void(std::string)>& diagnostic) {
    uses_.assign(nodes_, NodeUse::unused);
    if (nodes_ == 0) return;
    const auto seen = look();
    const bool chain = follow_chain(seen);
    const auto leaves = std::count(uses_.begin(), uses_.end(), NodeUse::leaf);
    const bool index = walk_index(seen);
    const bool agree = leaves == std::count(uses_.begin(), uses_.end(), NodeUse::leaf);
    if (!chain || !index || !agree) {
        diagnostic(fmt::format("{}; every leaf that its map has in use is read as well.",
                               !chain   ? "its chain of leaves is broken"
                               : !index ? "its index is broken"
                                        : "its index and its chain of leaves do not agree"));
        std::vector<bool> used;
        read_map(used);
        for (std::uint64_t n = 1; n < nodes_; ++n) {
            if (used[n] && seen.glances[n].valid && seen.glances[n].kind == kBTLeafNode)
                uses_[n] = NodeUse::leaf;
        }
    }
    written_.resize(nodes_);
    for (std::uint64_t n = 0; n < nodes_; ++n) {
        written_[n] = seen.glances[n].valid;
        const auto kind = seen.glances[n].kind;
        if (seen.glances[n].valid && (kind == kBTHeaderNode || kind == kBTMapNode)) uses_[n] = NodeUse::other;
    }
}

}  // namespace undershelf::hfsplus
