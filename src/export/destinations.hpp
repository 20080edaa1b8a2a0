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
    /// Looks only; where there is one folder alone not before somebody asks. Throws Error: `usage` for a
    /// folder that is given twice, `refused` as BagPast, and so do all that look.
    Destinations(const Shelf& shelf, const ExportOptions& options);

    /// Has one of the bags this entry, as it is laid out now?
    bool have(const ShelfEntry& entry) const { return find(entry, folders_.size()) != nullptr; }
    /// What another one has of it.
    struct Held {
        int revision = 0;
        bool finished = true;  ///< the round that has it
    };
    const Held* elsewhere(const ShelfEntry& entry, std::size_t folder) const {
        return folders_.size() > 1 ? find(entry, folder) : nullptr;
    }
    /// Is a round unfinished in one of the folders after this one?
    bool unfinished_after(std::size_t folder) const;
    /// A bag has written it.
    void wrote(std::size_t folder, std::int64_t entry, int revision) {
        if (folders_.size() > 1) look(folder).entries.insert_or_assign(entry, Held{revision, true});
    }
    /// Bytes free at all of them together; those on one file system count once. Nothing where nobody says.
    std::optional<std::uint64_t> room() const;
    /// At one of them.
    static std::optional<std::uint64_t> room_at(const std::string& folder);

  private:
    struct Bag {
        std::unordered_map<std::int64_t, Held> entries;
        bool unfinished = false;
    };
    Bag& look(std::size_t folder) const;
    const Held* find(const ShelfEntry& entry, std::size_t but) const;

    std::vector<std::string> folders_;
    BagOwner owner_;
    mutable std::vector<std::optional<Bag>> bags_;  ///< by folder
};

}  // namespace undershelf
