#pragma once
// What the records of a volume tell together, with the journals: which record a reference means, and the
// entries that each file is listed as. Everything here only looks, so that several threads can ask at a time.

#include <vector>

#include "ntfs/mft.hpp"
#include "ntfs/past_lives.hpp"
#include "ntfs/told_names.hpp"
#include "volume/file_system.hpp"

namespace undershelf::ntfs {

// Second numbers of entry keys. A record's present file has {number, 0} as a folder, else {number, 1}.
constexpr std::uint64_t first_past_life = 2, leftover_life = 1ull << 32;
/// A file whose record has been used again.
inline EntryKey life_key(const Reference& file) {
    return {file.record, first_past_life + file.sequence};
}

/// An entry as its records tell it, with what the reader notes of it.
struct Draft {
    Entry entry;
    std::uint64_t number = 0;         ///< of its record
    std::uint64_t parent_record = 0;  ///< of its folder
    NamePrint print;
    bool stale_parent = false;  ///< its folder's record has been used again
};

/// The windows of one thread: for records in order, and for those they refer to.
struct RecordWindows {
    RecordWindow records{1 << 20}, others{64 << 10};
};

class FileTable {
  public:
    FileTable(const Source& source, const Volume& volume, const Geometry& geometry, Mft&& mft);

    const Mft& mft() const { return mft_; }
    const std::vector<Glance>& glances() const { return glances_; }
    const PastLives& past() const { return past_; }
    /// Looks at every record once, and reads the journals.
    void look(EntrySink& sink, Progress& progress);

    FileInfo file_of(std::uint64_t number, RecordWindows& windows) const;
    /// True when the record still is, or was last, the file that this reference meant.
    bool is_known(const Reference& file) const;
    /// The key of the folder that a reference means, and whether it means the folder that is in that record
    /// now.
    struct Parent {
        EntryKey key;
        bool good = true;
    };
    Parent parent_of(const Reference& folder) const;
    /// The path of a name in a folder, as far as records and journals tell it.
    std::string path_of(Reference folder, const std::u16string& name) const;
    /// The life that record `number` tells of. A free record's number may have been raised when it was freed.
    const PastLives::Life* life_of(std::uint64_t number) const;
    /// Appends the entries of the file in record `number`: one for each path and stream. False when the
    /// record has no name, and holds a content or was a folder all the same.
    bool compose(std::uint64_t number, RecordWindows& windows, std::vector<Draft>& out) const;
    /// The same under a name that is elsewhere.
    std::vector<Draft> compose_as(std::uint64_t number, RecordWindows& windows, const Name& name) const;

  private:
    void read_journals(EntrySink& sink, Progress& progress);
    void compose_name(const FileInfo& info, std::uint64_t number, const Name& name,
                      std::vector<Draft>& out) const;
    bool make_link(Draft& draft, const FileInfo& info, const Stream* main) const;
    ByteVector first_bytes(const Stream& stream) const;
    void add_stream(Draft&& draft, const Stream& stream, std::vector<Draft>& out) const;
    void describe(Entry& entry, const FileInfo& info, std::uint64_t number) const;
    void recall(Entry& entry, std::uint64_t number, const FileInfo& info) const;

    const Source& source_;
    std::uint64_t volume_offset_;
    Geometry geometry_;
    Mft mft_;
    std::vector<Glance> glances_;
    PastLives past_;
};

}  // namespace undershelf::ntfs
