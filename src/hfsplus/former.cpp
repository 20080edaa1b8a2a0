#include "hfsplus/former.hpp"

#include <fmt/format.h>

#include <map>

#include "base/error.hpp"
#include "base/number_lines.hpp"
#include "base/text.hpp"
#include "hfsplus/reader.hpp"
#include "hfsplus/traces.hpp"

namespace undershelf::hfsplus {

namespace {

constexpr std::uint32_t largest_block = 1 << 26;
/// So many nodes after the last dated one still are among them.
constexpr std::uint64_t among = 64;

std::optional<HFSPlusVolumeHeader> unpack_header(const std::string& text) {
    const NumberLines lines(text);
    const auto block = lines.one("block").value_or(0), blocks = lines.one("blocks").value_or(0);
    const bool placeless = block == 0 && blocks == 0;
    if (!placeless && (block < 512 || block > largest_block || !is_power_of_two(block) || blocks == 0 ||
                       blocks > UINT32_MAX))
        return std::nullopt;
    HFSPlusVolumeHeader out{};
    out.blockSize = static_cast<std::uint32_t>(placeless ? 512 : block);
    out.totalBlocks = static_cast<std::uint32_t>(blocks);
    return out;
}

/// The leaves of one tree. Node sizes are the same within a tree; the one most nodes have counts.
BTree tree_of(const Source& source, const std::vector<NodeTrace>& nodes, Tree tree) {
    std::map<std::uint32_t, std::size_t> sizes;
    for (const auto& n : nodes) sizes[n.size] += n.tree == tree;
    std::uint32_t size = 0;
    for (const auto& [s, count] : sizes) {
        if (count > 0 && (size == 0 || count > sizes[size])) size = s;
    }
    std::vector<ByteRange> places;
    std::vector<NodeUse> uses;
    for (const auto& n : nodes) {
        if (n.tree != tree || n.size != size) continue;
        places.push_back({n.offset, n.size});
        // An index node is only good for the names in its keys, as in a tree that does not use it.
        uses.push_back(n.is_index ? NodeUse::unused : NodeUse::leaf);
    }
    if (places.empty()) return {};
    return BTree(Fork(source, places), size, std::move(uses));
}

/// The nodes of a former volume. Where a present one was made over it, its own nodes may have been freed
/// since: what was made before that is the former one's, and so is what has no date and is among such.
std::vector<NodeTrace> nodes_of(const TraceStore& traces, const ByteRange& where, std::uint64_t end_date) {
    std::vector<NodeTrace> out;
    std::uint64_t first = ~0ull, last = 0;
    traces.visit(node_trace, where, [&](const Trace& t) {
        const auto node = node_of(t);
        if (!node || (end_date && node->made >= end_date)) return true;
        if (node->made) {
            first = std::min(first, node->offset);
            last = node->offset;
        }
        out.push_back(*node);
        return true;
    });
    if (end_date)
        std::erase_if(out, [&](const NodeTrace& n) {
            return n.made == 0 && (n.offset < first || n.offset > last + among * n.size);
        });
    return out;
}

}  // namespace

std::string pack_geometry(std::uint32_t block_size, std::uint32_t blocks, std::uint32_t end_date) {
    NumberLines lines;
    lines.add("block", {block_size});
    lines.add("blocks", {blocks});
    if (end_date) lines.add("end_date", {end_date});
    return lines.text();
}

std::unique_ptr<VolumeReader> open_former(const Source& source, const Volume& volume,
                                          const TraceStore& traces) {
    const auto header = unpack_header(volume.geometry);
    if (!header)
        throw Error(Trouble::input, fmt::format("What the shelf says of the HFS+ volume at offset {} cannot "
                                                "be understood; scan the source again.",
                                                volume.offset));
    const auto end_date = NumberLines(volume.geometry).one("end_date").value_or(0);
    const auto nodes = nodes_of(traces, {volume.offset, volume.size}, end_date);
    return std::make_unique<Reader>(
        source, volume, *header,
        FormerTrees{tree_of(source, nodes, Tree::extents), tree_of(source, nodes, Tree::catalogue),
                    tree_of(source, nodes, Tree::attributes)});
}

Recognition as_told(const VolumeHint& told, const Settling& settling) {
    const auto block = told.cluster_size.value_or(0);
    if (block < 512 || block > largest_block || !is_power_of_two(block))
        throw Error(
            Trouble::usage,
            fmt::format("Nothing at offset {} says how large the allocation blocks of an HFS+ volume are; "
                        "give it as well, a power of two: --volume-at {},HFS+,4096.",
                        told.offset, told.offset));
    std::uint64_t nodes = 0;
    const ByteRange rest{told.offset, settling.source.size() - told.offset};
    settling.traces.visit(node_trace, rest, [&](const Trace& t) {
        const auto node = node_of(t);
        nodes += node && node->tree == Tree::catalogue;
        return true;
    });
    if (nodes == 0)
        throw Error(Trouble::usage,
                    fmt::format("No node of an HFS+ catalogue was found after offset {}.", told.offset));
    Recognition r;
    auto& v = r.volume;
    v.family = "HFS+";
    v.file_system = told.system;
    v.offset = v.grid_start = told.offset;
    const auto blocks = std::min<std::uint64_t>(rest.length / block, UINT32_MAX);
    v.size = blocks * block;
    v.cluster_size = block;
    v.state = VolumeState::former;
    v.found_by = "told";
    v.geometry = pack_geometry(block, static_cast<std::uint32_t>(blocks), 0);
    v.votes = fmt::format("{} leaves of its catalogue were found after its start.", grouped(nodes));
    return r;
}

}  // namespace undershelf::hfsplus
