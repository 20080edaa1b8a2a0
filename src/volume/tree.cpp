#include "volume/tree.hpp"

#include <fmt/format.h>

#include "volume/budget.hpp"

namespace undershelf {

TreeBuilder::TreeBuilder(std::int64_t root_id, std::function<std::int64_t(const EntryKey&)> next_id)
    : next_id_(std::move(next_id)) {
    auto& root = nodes_.emplace_back();
    root.id = root_id;
    root.key = root_key;
    root.told = root.settled = true;
    by_key_.emplace(root_key, 0);
}

std::size_t TreeBuilder::index(const EntryKey& key) {
    const auto [it, fresh] = by_key_.emplace(key, nodes_.size());
    if (fresh) {
        auto& node = nodes_.emplace_back();
        node.id = next_id_(key);
        node.key = key;
    }
    return it->second;
}

std::int64_t TreeBuilder::folder(const EntryKey& key) {
    return nodes_[index(key)].id;
}

TreeBuilder::Placed TreeBuilder::add(const Entry& folder) {
    const auto parent = index(folder.parent);
    const auto own = index(folder.key);
    if (nodes_[own].told) return {next_id_(folder.key), nodes_[parent].id, Moved::no, std::nullopt};
    auto& node = nodes_[own];
    node.told = true;
    node.name = folder.name;
    node.parent = parent;
    if (!nodes_[parent].settled) return {node.id, nodes_[parent].id, Moved::no, std::nullopt};
    settle(node);
    return {node.id, nodes_[node.parent].id, node.moved, path_of(node)};
}

/// Its parent is settled: puts it there, or at the root where that is too deep.
void TreeBuilder::settle(Node& node) {
    const auto* above = &nodes_[node.parent];
    const auto length = above->length + 1 + node.name.size();
    if (above->depth + 1 > bound::folder_depth || length > bound::path_bytes ||
        path_bytes_ + length > bound::all_paths_bytes + bound::path_bytes_each * nodes_.size()) {
        node.moved = Moved::too_deep;
        node.parent = 0;
        above = &nodes_[0];
    }
    node.depth = above->depth + 1;
    node.length = (above->length ? above->length + 1 : 0) + node.name.size();
    node.settled = true;
    path_bytes_ += node.length;
}

std::string TreeBuilder::path_of(const Node& node) const {
    std::vector<const Node*> way;
    for (const auto* n = &node; n != &nodes_[0]; n = &nodes_[n->parent]) way.push_back(n);
    std::string out;
    for (auto it = way.rbegin(); it != way.rend(); ++it) {
        if (!out.empty()) out += '/';
        out += (*it)->name;
    }
    return out;
}

std::optional<std::string> TreeBuilder::path_of(const EntryKey& folder) const {
    const auto it = by_key_.find(folder);
    return it == by_key_.end() ? std::nullopt : std::optional(path_of(nodes_[it->second]));
}

void TreeBuilder::settle_with_all_above(std::size_t node, std::vector<char>& on_the_way) {
    std::vector<std::size_t> way;
    while (!nodes_[node].settled && !on_the_way[node]) {
        on_the_way[node] = true;
        way.push_back(node);
        node = nodes_[node].parent;
    }
    // A walk that meets itself is a circle: it is cut above the folder that it meets.
    if (!nodes_[node].settled) {
        nodes_[node].parent = 0;
        nodes_[node].moved = Moved::circle;
    }
    for (auto it = way.rbegin(); it != way.rend(); ++it) {
        if (nodes_[nodes_[*it].parent].settled) settle(nodes_[*it]);
    }
    // What of the way lay below the cut comes round once more.
    for (auto it = way.rbegin(); it != way.rend(); ++it) {
        if (!nodes_[*it].settled) settle(nodes_[*it]);
    }
}

void TreeBuilder::finish(const std::function<void(const Node&)>& stand_in,
                         const std::function<void(const Node&, const std::string&)>& settled) {
    std::vector<std::size_t> open;
    for (std::size_t i = 0; i < nodes_.size(); ++i) {
        auto& n = nodes_[i];
        if (!n.settled) open.push_back(i);
        if (n.told) continue;
        n.name = fmt::format("folder-{}", n.key.a);
        n.told = true;
        stand_in(n);
    }
    std::vector<char> on_the_way(nodes_.size(), false);
    for (const auto i : open) settle_with_all_above(i, on_the_way);
    for (const auto i : open) settled(nodes_[i], path_of(nodes_[i]));
}

}  // namespace undershelf
