#pragma once
// B-tree files: nodes with their records, and which of the leaves are part of the tree.

#include <functional>
#include <string>
#include <vector>

#include "hfsplus/fork.hpp"

namespace undershelf::hfsplus {

/// A node whose descriptor and record offsets make sense: they ascend from 14, and the last one is where its
/// free space starts.
class Node {
  public:
    /// Nothing when `bytes` cannot be a node.
    static std::optional<Node> parse(Bytes bytes);

    /// How long the record is with which the bytes begin; 0 for none. Never more than there are.
    using RecordLength = std::function<std::size_t(Bytes)>;
    /// A leaf that is partly written over. Of one whose beginning is gone the records to which its table of
    /// offsets, ascending from where the first one was, still leads; of one whose end is gone those that
    /// follow on each other from its beginning, by their lengths; whichever are more. Nothing without one.
    /// Records must be held against what they can be.
    static std::optional<Node> parse_rest(Bytes bytes, const RecordLength& length = {});

    std::int8_t kind() const { return kind_; }
    std::uint32_t next() const { return next_; }
    std::size_t records() const { return records_; }
    Bytes record(std::size_t index) const;
    std::size_t record_offset(std::size_t index) const;
    /// Between the last record and the table of offsets.
    std::size_t free_offset() const { return record_offset(records_); }
    Bytes free_space() const;

  private:
    static std::optional<Node> by_offsets(Bytes bytes);
    static std::optional<Node> walked(Bytes bytes, const RecordLength& length);

    Bytes bytes_;
    std::int8_t kind_ = 0;
    std::uint32_t next_ = 0;
    std::size_t records_ = 0;
    std::vector<std::size_t> walked_;  ///< offsets, where the table of them is lost
};

/// What the tree says of a node.
enum class NodeUse : std::uint8_t { unused, leaf, index, other };

class BTree {
  public:
    /// A tree that cannot be read has no nodes.
    BTree() = default;
    /// `most_bytes`: a tree cannot be larger than its source, whatever its header says.
    BTree(Fork fork, std::uint64_t most_bytes, Node::RecordLength length = {});

    /// A tree without a header, of which these nodes are left.
    BTree(Fork fork, std::uint32_t node_size, std::vector<NodeUse> uses);

    const Fork& fork() const { return fork_; }
    std::uint32_t node_size() const { return node_size_; }
    std::uint64_t nodes() const { return nodes_; }
    /// Finds the leaves by their chain and by the index, each on its own; where these do not agree, leaves
    /// that the map has in use count as well. Says what is broken.
    void find_leaves(const std::function<void(std::string)>& diagnostic);
    NodeUse use(std::uint64_t node) const { return uses_[node]; }
    /// What is left of a leaf that is partly written over.
    std::optional<Node> rest_of(Bytes node) const { return Node::parse_rest(node, length_); }
    /// False where no node was ever written: what is there is older than the tree. Known once the leaves
    /// are found.
    bool is_written(std::uint64_t node) const { return written_.empty() || written_[node]; }
    /// Reads `count` nodes from `first` on.
    void read(std::uint64_t first, std::uint64_t count, ByteVector& out) const;

  private:
    struct Look;
    Look look() const;
    bool follow_chain(const Look& look);
    bool walk_index(const Look& look);
    void read_map(std::vector<bool>& used) const;

    Fork fork_;
    Node::RecordLength length_;  ///< of its records
    std::uint32_t node_size_ = 0;
    std::uint64_t nodes_ = 0;
    BTHeaderRec header_{};
    std::vector<NodeUse> uses_;
    std::vector<bool> written_;
};

}  // namespace undershelf::hfsplus
