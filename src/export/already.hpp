#pragma once
// What a bag has of its shelf's entries from finished rounds, and what else is in it.

#include <optional>
#include <string>
#include <unordered_map>
#include <vector>

#include "export/bag.hpp"
#include "export/counts.hpp"
#include "export/safe_names.hpp"

namespace undershelf {

/// The last file that was written of an entry.
struct EarlierFile {
    std::string path;  ///< in the bag; empty where nothing was written
    int revision = 0;
    bool partial = false;
    std::optional<ExportedEntry> line;  ///< where it was asked for
};

class Already {
  public:
    /// Looks for every file where its line says, and through the folder `data`. `names` learns what is taken
    /// and, where folders are kept, which folders of the bag are made from which. `lines`: they are needed.
    Already(const Bag& bag, SafePaths& names, bool keeps_folders, bool lines);

    /// Nothing where the bag has none, or has it no more as it was written.
    const EarlierFile* find(std::int64_t entry) const;
    /// The entries that have a file.
    IdSet with_files() const;
    /// Says what does not fit the bag's lists.
    void tell(ExportResult::Part& part) const;

  private:
    void take_line(const std::string& line, LineGist&& gist, bool with_line);
    bool is_anything_at(const std::string& path) const;
    void look_through(const Folder& bag, const std::string& folder);

    const Bag& bag_;
    SafePaths& names_;
    bool keeps_folders_;
    std::unordered_map<std::int64_t, EarlierFile> files_;
    ExportResult::Part said_;
};

}  // namespace undershelf
