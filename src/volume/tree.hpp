#pragma once
// Joins entries to their parents. Entries stream by in any order; the builder keeps only the folders, gives
// each an id when it is first mentioned, and works the paths out at the end.

#include <functional>
#include <optional>
#include <string>
#include <unordered_map>
#include <vector>

#include "volume/model.hpp"

namespace undershelf {

class TreeBuilder {
  public:
    /// `next_id` hands out the ids of entries; `root_id` is the root folder's.
    TreeBuilder(std::int64_t root_id, std::function<std::int64_t()> next_id);

    /// The id of a folder, given out when it is first asked for.
    std::int64_t folder(const EntryKey& key);
    /// A folder's own entry has come: remembers its name and parent. Returns its id; a second entry of the
    /// same folder gets an id of its own.
    std::int64_t add(const Entry& folder);

    /// The path of a folder whose own entry and all above it have come already; nothing before that.
    std::optional<std::string> early_path(const EntryKey& key) const;

    struct Node {
        std::int64_t id = 0;
        EntryKey key;
        std::string name;
        std::string path;        ///< set early where that can be, and by finish() for all
        std::size_t parent = 0;  ///< index in nodes()
        bool told = false;       ///< its own entry has come
    };
    /// Works out all paths. Folders that are only mentioned get a stand-in name in the root; folders that
    /// stand in themselves are hung into the root. Calls `stand_in` for every folder without an entry of its
    /// own.
    void finish(const std::function<void(const Node&)>& stand_in);
    const std::vector<Node>& nodes() const { return nodes_; }

  private:
    struct KeyHash {
        std::size_t operator()(const EntryKey& k) const {
            return std::hash<std::uint64_t>()(k.a * 0x9E3779B97F4A7C15ull ^ k.b);
        }
    };
    std::size_t index(const EntryKey& key);
    void resolve(std::size_t node);
    static std::string joined(const Node& above, const std::string& name);

    std::function<std::int64_t()> next_id_;
    std::vector<Node> nodes_;
    std::unordered_map<EntryKey, std::size_t, KeyHash> by_key_;
    std::vector<char> state_;  ///< while paths are worked out: 0 untouched, 1 under way, 2 done
};

}  // namespace undershelf
