#pragma once
// What the bins on a source keep about the things in them, live and lost ones alike.

#include <map>
#include <set>
#include <unordered_set>

#include "base/progress.hpp"
#include "bins/bin_place.hpp"
#include "bins/bin_records.hpp"
#include "shelf/shelf.hpp"
#include "source/source.hpp"

namespace undershelf {

class BinNotes {
  public:
    /// Reads all records of the shelf's bins.
    BinNotes(const Source& source, const Shelf& shelf, const Progress& progress);

    /// The thing in a bin that a path of a volume is, or lies in.
    struct Item {
        std::string path;  ///< of that thing
        std::string rest;  ///< below it, with a `/` before it; empty for itself
    };
    /// Nothing for what is in no bin. These are known by their names, and what is in them by their records as
    /// well: of a former volume the names of top folders may be lost.
    std::optional<Item> item_at(int volume, const std::string& path) const;
    /// What is known of a thing in a bin, by its path; of several records the one with its size.
    const BinRecord* find(int volume, const std::string& path, std::uint64_t size) const;
    /// Paths of folders that only their records tell to be bins.
    const std::set<std::string>& found_by_records() const { return folders_; }
    bool any() const { return !notes_.empty(); }
    bool is_record(std::int64_t entry) const { return records_.count(entry) != 0; }

  private:
    void learn(const ShelfEntry& entry, Bytes content);
    void note(const ShelfEntry& entry, const std::string& folder, BinRecord&& record);

    std::multimap<std::pair<int, std::string>, BinRecord> notes_;  ///< by volume and folded path in the bin
    std::set<std::string> folders_;
    std::unordered_set<std::int64_t> records_;  ///< entries
};

}  // namespace undershelf
