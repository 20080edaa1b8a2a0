#pragma once
// Joins entries to their parents. Entries stream by in any order; the builder keeps only the folders, gives
// each an id when it is first mentioned, and decides where each is. What it decides holds for paths and
// parents alike: every folder is reachable from the root, nothing is its own parent, and nesting ends where
// nobody could follow it any more (bounds in volume/budget.hpp); what is deeper is at the root.

#include <functional>
#include <optional>
#include <string>
#include <unordered_map>
#include <vector>

#include "volume/model.hpp"

namespace undershelf {

class TreeBuilder {
  public:
    /// `next_id` hands out the ids of folders by their keys; `root_id` is the root folder's.
    TreeBuilder(std::int64_t root_id, std::function<std::int64_t(const EntryKey&)> next_id);

    /// The id of a folder, given out when it is first asked for.
    std::int64_t folder(const EntryKey& key);

    enum class Moved : std::uint8_t { no, circle, too_deep };
    struct Node {
        std::int64_t id = 0;
        EntryKey key;
        std::string name;
        std::size_t parent = 0;   ///< index in nodes(); final once `settled`
        std::size_t depth = 0;    ///< folders from the root down to this one
        std::size_t length = 0;   ///< of its path, bytes
        bool told = false;        ///< its own entry has come
        bool settled = false;     ///< it is known where it is
        Moved moved = Moved::no;  ///< to the root, and why
    };
    struct Placed {
        std::int64_t id = 0;
        std::int64_t parent_id = 0;
        Moved moved = Moved::no;
        std::optional<std::string> path;  ///< where it is known already
    };
    /// A folder's own entry has come: remembers its name and parent. A second entry of the same folder gets
    /// an id of its own.
    Placed add(const Entry& folder);

    /// Settles what is left. Folders that are only mentioned get a stand-in name in the root; of a circle the
    /// folder that was met first is at the root. Calls `stand_in` for every folder without an entry of
    /// its own, then `settled` for every one that add() could not place yet.
    void finish(const std::function<void(const Node&)>& stand_in,
                const std::function<void(const Node&, const std::string& path)>& settled);
    const std::vector<Node>& nodes() const { return nodes_; }
    std::string path_of(const Node& node) const;
    /// Of a folder that was mentioned, once all is settled; of others nothing.
    std::optional<std::string> path_of(const EntryKey& folder) const;

  private:
    struct KeyHash {
        std::size_t operator()(const EntryKey& k) const {
            return std::hash<std::uint64_t>()(k.a * 0x9E3779B97F4A7C15ull ^ k.b);
        }
    };
    std::size_t index(const EntryKey& key);
    void settle(Node& node);
    void settle_with_all_above(std::size_t node, std::vector<char>& on_the_way);

    std::function<std::int64_t(const EntryKey&)> next_id_;
    std::vector<Node> nodes_;
    std::uint64_t path_bytes_ = 0;  ///< of all settled folders
    std::unordered_map<EntryKey, std::size_t, KeyHash> by_key_;
};

}  // namespace undershelf
