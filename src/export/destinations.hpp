#pragma once
// The folders that an export may write to: what the bags there have already, and how much room there is.

#include <unordered_map>

#include "export/bag_past.hpp"
#include "export/job.hpp"

namespace undershelf {

/// The owner of the bags that an export writes.
BagOwner owner_of(const Shelf& shelf, const ExportOptions& options);

class Destinations {
  public:
    /// Looks only. Throws Error: `usage` for a folder that is given twice, `refused` as BagPast.
    Destinations(const Shelf& shelf, const ExportOptions& options);

    /// Has one of the bags this entry, as it is laid out now?
    bool have(const ShelfEntry& entry) const { return has(entry, folders_.size()); }
    /// One of the others?
    bool have_elsewhere(const ShelfEntry& entry, std::size_t folder) const { return has(entry, folder); }
    /// A bag has written it.
    void wrote(std::size_t folder, std::int64_t entry, int revision) {
        held_[folder].insert_or_assign(entry, revision);
    }
    /// Bytes free at all of them together; those on one file system count once. Nothing where nobody says.
    std::optional<std::uint64_t> room() const;
    /// At one of them.
    static std::optional<std::uint64_t> room_at(const std::string& folder);

  private:
    bool has(const ShelfEntry& entry, std::size_t but) const;

    std::vector<std::string> folders_;
    std::vector<std::unordered_map<std::int64_t, int>> held_;  ///< by folder: revisions of entries
};

}  // namespace undershelf
