#pragma once
// What an HFS+ volume leaves on a source after it was formatted over: nodes of its trees. They have no magic
// number, but much that must hold: the descriptor, the table of offsets at the node's end, keys in order.

#include <optional>

#include "volume/trace.hpp"

namespace undershelf::hfsplus {

enum class Tree : std::uint8_t { catalogue = 1, extents = 2, attributes = 3 };

/// A leaf node, or an index node of a catalogue, as its trace tells it.
struct NodeTrace {
    std::uint64_t offset = 0;  ///< in the source
    Tree tree = Tree::catalogue;
    std::uint32_t size = 0;                   ///< bytes
    std::uint32_t next = 0, previous = 0;     ///< leaves of its tree
    std::uint32_t first_id = 0, last_id = 0;  ///< of its keys: parents in the catalogue, else files
    std::uint16_t records = 0;
    bool is_index = false;
    std::uint32_t made = 0;  ///< median of its items' dates of creation, seconds since 1904 UTC; 0: none
};

/// Trace::kind of a node.
constexpr std::uint32_t node_trace = 1;
Trace trace_of(const NodeTrace& node);
std::optional<NodeTrace> node_of(const Trace& trace);

/// Reports nodes that start at a sector in the owned part of `buffer`.
void find_traces(const SweepBuffer& buffer, TraceSink& sink);

}  // namespace undershelf::hfsplus
