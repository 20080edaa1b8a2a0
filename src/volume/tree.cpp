#include "volume/tree.hpp"

#include <fmt/format.h>

namespace undershelf {

namespace {
constexpr std::size_t longest_path = 8192;
}

TreeBuilder::TreeBuilder(std::int64_t root_id, std::function<std::int64_t()> next_id)
    : next_id_(std::move(next_id)) {
    nodes_.push_back({root_id, root_key, {}, {}, 0, true});
    by_key_.emplace(root_key, 0);
}

std::size_t TreeBuilder::index(const EntryKey& key) {
    const auto [it, fresh] = by_key_.emplace(key, nodes_.size());
    if (fresh) nodes_.push_back({next_id_(), key, {}, {}, 0, false});
    return it->second;
}

std::int64_t TreeBuilder::folder(const EntryKey& key) {
    return nodes_[index(key)].id;
}

std::int64_t TreeBuilder::add(const Entry& folder) {
    const auto parent = index(folder.parent);
    const auto own = index(folder.key);
    auto& node = nodes_[own];
    if (node.told) return next_id_();
    node.told = true;
    node.name = folder.name;
    node.parent = parent;
    return node.id;
}

void TreeBuilder::resolve(std::size_t node) {
    // Walks up to the first folder whose path is known, then down again; a walk that meets itself is cut.
    std::vector<std::size_t> up;
    while (state_[node] == 0) {
        state_[node] = 1;
        up.push_back(node);
        node = nodes_[node].parent;
    }
    if (state_[node] == 1) nodes_[up.back()].parent = 0;
    for (auto it = up.rbegin(); it != up.rend(); ++it) {
        auto& n = nodes_[*it];
        // Nesting without end, as in a damaged or hostile volume, must not grow paths without end.
        if (nodes_[n.parent].path.size() > longest_path) n.parent = 0;
        const auto& above = nodes_[n.parent].path;
        n.path = above.empty() ? n.name : above + "/" + n.name;
        state_[*it] = 2;
    }
}

void TreeBuilder::finish(const std::function<void(const Node&)>& stand_in) {
    state_.assign(nodes_.size(), 0);
    state_[0] = 2;
    for (auto& n : nodes_) {
        if (n.told) continue;
        n.name = fmt::format("folder-{}", n.key.a);
        n.told = true;
        stand_in(n);
    }
    for (std::size_t i = 0; i < nodes_.size(); ++i) resolve(i);
}

}  // namespace undershelf
