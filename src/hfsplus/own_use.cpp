#include "hfsplus/own_use.hpp"

#include <unordered_set>

#include "hfsplus/btree.hpp"
#include "hfsplus/journal.hpp"
#include "hfsplus/records.hpp"

namespace undershelf::hfsplus {

namespace {

BTree tree_in(const Source& source, std::uint64_t volume, const HFSPlusVolumeHeader& h,
              const HFSPlusForkData& fork) {
    bool sound = true;
    const auto extents = extents_of(fork.extents, h.totalBlocks.value(), sound);
    const Geometry g{volume, h.blockSize.value(), h.totalBlocks.value()};
    return BTree(Fork(source, g, extents, fork.logicalSize.value()), source.size());
}

/// By id and date of creation.
std::uint64_t print_of(const Item& item) {
    return std::uint64_t{item.id} << 32 | item.created;
}

/// Of the catalogue also the nodes that were freed: they hold states of items that are live still.
void append_freed(const BTree& tree, const Geometry& g, std::vector<ByteRange>& out) {
    std::unordered_set<std::uint64_t> live;
    ByteVector bytes;
    const auto each_item = [&](std::uint64_t n, const auto& visit) {
        tree.read(n, 1, bytes);
        const auto node = Node::parse(bytes);
        if (!node || node->kind() != kBTLeafNode) return;
        for (std::size_t i = 0; i < node->records(); ++i) {
            if (const auto item = read_item(node->record(i), g)) visit(*item);
        }
    };
    for (std::uint64_t n = 0; n < tree.nodes(); ++n) {
        if (tree.use(n) == NodeUse::leaf)
            each_item(n, [&](const Item& item) { live.insert(print_of(item)); });
    }
    for (std::uint64_t n = 0; n < tree.nodes(); ++n) {
        if (tree.use(n) != NodeUse::unused) continue;
        bool own = false;
        each_item(n, [&](const Item& item) { own |= live.count(print_of(item)) > 0; });
        if (!own) continue;
        for (const auto& r : tree.fork().places(n * tree.node_size(), tree.node_size())) out.push_back(r);
    }
}

}  // namespace

std::uint32_t made_at(const Source& source, const Volume& volume) {
    const auto h = source.read_structure<HFSPlusVolumeHeader>(volume.head_offset);
    if (!h || !volume.geometry.empty() || h->blockSize.value() < 512) return 0;
    const auto tree = tree_in(source, volume.offset, *h, h->catalogFile);
    if (tree.nodes() == 0) return 0;
    ByteVector bytes;
    tree.read(0, 1, bytes);
    const auto header = load<BTHeaderRec>(bytes, sizeof(BTNodeDescriptor));
    if (!header || header->firstLeafNode.value() >= tree.nodes()) return 0;
    tree.read(header->firstLeafNode.value(), 1, bytes);
    const auto leaf = Node::parse(bytes);
    if (!leaf || leaf->records() == 0) return 0;
    const auto root =
        read_item(leaf->record(0), {volume.offset, h->blockSize.value(), h->totalBlocks.value()});
    return root && root->parent == kHFSRootParentID ? root->created : 0;
}

RangeSet own_use(const Source& source, const Volume& volume) {
    const auto h = source.read_structure<HFSPlusVolumeHeader>(volume.head_offset);
    if (!volume.geometry.empty() || !h || h->blockSize.value() < 512) return {};
    const Geometry g{volume.offset, h->blockSize.value(), h->totalBlocks.value()};
    std::vector<ByteRange> out;
    for (const auto* fork : {&h->extentsFile, &h->catalogFile, &h->attributesFile}) {
        if (fork->logicalSize.value() == 0) continue;
        auto tree = tree_in(source, volume.offset, *h, *fork);
        tree.find_leaves([](std::string) {});
        for (std::uint64_t n = 0; n < tree.nodes(); ++n) {
            if (tree.use(n) == NodeUse::unused) continue;
            for (const auto& r : tree.fork().places(n * tree.node_size(), tree.node_size())) out.push_back(r);
        }
        if (fork == &h->catalogFile) append_freed(tree, g, out);
    }
    if (h->attributes.value() & kHFSVolumeJournaledMask) {
        if (const auto journal = journal_said(source, g, h->journalInfoBlock.value()))
            out.push_back(*journal);
    }
    return RangeSet(std::move(out));
}

}  // namespace undershelf::hfsplus
