#pragma once
// Where the links of an export lead in its bag.

#include <string>
#include <unordered_map>
#include <unordered_set>
#include <vector>

#include "export/exported_entry.hpp"
#include "shelf/shelf.hpp"

namespace undershelf {

/// Where `target`, read in `folder`, leads on its volume: without `.`, `..` and a drive letter. `separator`
/// is between its names. Nothing for a target that leaves the volume.
std::optional<std::string> path_led_to(std::string_view folder, std::string_view target, char separator);

/// Knows of what is exported only what links lead to: it is asked for by path, and links are few.
class LinkTargets {
  public:
    /// Takes the links of `selection`.
    LinkTargets(const Shelf& shelf, Selection selection);

    /// An entry that has its place in the bag. `path_in_bag` of a folder has no line.
    void has_place(const ShelfEntry& entry, const std::string& path_in_bag, const ExportedEntry* line);
    /// One that has a file in the bag from an earlier round.
    void was_there(const ShelfEntry& entry, const std::string& path_in_bag, const ExportedEntry& line);
    /// It could not be given its place after all.
    void has_none(std::int64_t entry);
    /// A link that leads to something in the bag: its line as the text file that it is, and as a link, which
    /// has the place of that in `leads_to`, and its bytes and checksum.
    struct Resolved {
        ExportedEntry as_text, as_link;
    };
    std::vector<Resolved> resolved() const;

  private:
    struct Link {
        int volume = 0;
        Origin origin{};
        std::vector<std::string> paths;     ///< where it may lead, the likelier first
        std::optional<ExportedEntry> line;  ///< once it is written
    };
    struct Target {
        std::int64_t entry = 0;
        Origin origin{};
        std::string path, path_in_bag;
        std::optional<ExportedEntry> line;  ///< none of a folder
    };

    void add_target(const ShelfEntry& entry, const std::string& path_in_bag, const ExportedEntry* line);
    static std::string key_of(int volume, std::string_view path);
    const Target* target_of(const Link& link) const;
    std::optional<Resolved> follow(const Link& link) const;

    std::unordered_map<std::int64_t, Link> links_;  ///< by entry
    std::unordered_map<std::string, std::vector<Target>> targets_;
    std::unordered_set<std::int64_t> placeless_;  ///< entries that lost their place again
};

}  // namespace undershelf
