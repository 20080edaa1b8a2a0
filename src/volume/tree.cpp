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
    const auto depth = nodes_[parent].path.size();
    if (parent == 0 || (depth > 0 && depth <= longest_path)) node.path = joined(nodes_[parent], node.name);
    return node.id;
}

std::optional<std::string> TreeBuilder::early_path(const EntryKey& key) const {
    const auto it = by_key_.find(key);
    if (it == by_key_.end() || nodes_[it->second].path.empty()) return std::nullopt;
    return nodes_[it->second].path;
}

std::string TreeBuilder::joined(const Node& above, const std::string& name) {
    return above.path.empty() ? name : above.path + "/" + name;
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
        n.path = joined(nodes_[n.parent], n.name);
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
