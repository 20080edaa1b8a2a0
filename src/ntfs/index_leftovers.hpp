#pragma once
// Leftovers of folder indexes: entries that were removed or moved stay after the used part of index
// blocks and of small folders' records, and in blocks of folders that are gone.

#include <functional>
#include <vector>

#include "ntfs/file_table.hpp"

namespace undershelf::ntfs {

/// A name that an index once held.
struct Leftover {
    std::uint64_t offset = 0;       ///< of its index entry in the source, bytes
    std::optional<Reference> file;  ///< nothing where the entry's head was written over
    Reference folder;
    Name name;  ///< its time of creation may be written over as well
    bool is_dir = false;
    std::uint64_t size = 0;   ///< bytes, as the index last knew it
    std::string date_argued;  ///< from what, where its date of change is not its own
};
using LeftoverSink = std::function<void(Leftover&&)>;

class IndexLeftovers {
  public:
    IndexLeftovers(const Source& source, const Volume& volume, const Geometry& geometry,
                   const FileTable& table)
        : source_(source), volume_(volume), geometry_(geometry), table_(table) {}

    /// Hands on what is after the used parts of folder `n`'s record and index blocks.
    void of_folder(std::uint64_t n, RecordWindows& windows, Budget& budget, const LeftoverSink& sink) const;
    /// Hands on every whole name in folder `n`'s record and index blocks, those in use among them.
    void names_of_folder(std::uint64_t n, RecordWindows& windows, Budget& budget,
                         const LeftoverSink& sink) const;
    /// The same as of_folder for index blocks in clusters that nobody holds. Looks at a part of a large
    /// volume only: the rest is for sweeping.
    void of_nobody(const std::vector<ByteRange>& free, Progress& progress, const LeftoverSink& sink) const;
    /// The same for index blocks at these places of the source.
    void of_places(const std::vector<std::uint64_t>& places, Progress& progress,
                   const LeftoverSink& sink) const;

  private:
    /// A stretch of bytes in which leftovers may be.
    struct Stretch {
        Bytes bytes;
        std::uint64_t offset = 0;            ///< in the source
        std::optional<std::uint64_t> owner;  ///< record of the folder that has it
        bool is_record = false;              ///< the folder's own record; else an index block
    };
    using Visit = std::function<void(const Stretch&)>;
    void visit_folder(std::uint64_t n, RecordWindows& windows, Budget& budget, const Visit& visit) const;
    static std::size_t used_end(const Stretch& stretch);
    void read_free(const ByteRange& range, const LeftoverSink& sink) const;
    void scan_whole(const Stretch& stretch, std::size_t from, const LeftoverSink& sink) const;
    void scan_cut(const Stretch& stretch, std::size_t end, const LeftoverSink& sink) const;
    void take(const Stretch& stretch, std::size_t at, std::size_t cut, const LeftoverSink& sink) const;

    const Source& source_;
    const Volume& volume_;
    const Geometry& geometry_;
    const FileTable& table_;
};

}  // namespace undershelf::ntfs
