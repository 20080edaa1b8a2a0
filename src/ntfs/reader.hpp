#pragma once
// Streams the entries of one present NTFS volume: every file record, live and deleted, in the order of their
// numbers; then what folder indexes and journals still tell: names of records that have lost theirs, and
// files whose record has been reused. reader.cpp has the first part, reader_nameless.cpp and reader_lost.cpp
// the second, reader_structures.cpp where all that is.

#include <map>
#include <set>
#include <vector>

#include "base/bit_set.hpp"
#include "ntfs/index_leftovers.hpp"
#include "ntfs/told_names.hpp"
#include "volume/file_system.hpp"

namespace undershelf::ntfs {

class Reader final : public VolumeReader {
  public:
    Reader(const Source& source, const Volume& volume, const Geometry& geometry)
        : Reader(source, volume, geometry, Mft(source, volume.offset, geometry)) {}
    /// With a table found before: a former volume has no boot sector that leads to one. `blocks`: where index
    /// blocks are in the source that a sweep has found.
    Reader(const Source& source, const Volume& volume, const Geometry& geometry, Mft&& mft,
           std::vector<std::uint64_t> blocks = {});
    void read(EntrySink& sink, Progress& progress) override;
    void remnants(EntrySink& sink, Progress& progress) override;
    std::vector<Structure> structures(Progress& progress) override;

  private:
    void read_records(EntrySink& sink, Progress& progress);
    void emit(Draft&& draft, EntrySink& sink);
    bool is_system(const Draft& draft);
    void claim(const std::vector<ByteRange>& ranges);
    void report_unowned(EntrySink& sink);
    std::vector<ByteRange> read_bitmap(EntrySink& sink);

    void read_leftovers(EntrySink& sink, Progress& progress);
    void take_leftover(Leftover&& leftover, EntrySink& sink);
    void name_by_references(EntrySink& sink);
    void name_by_journals(EntrySink& sink);
    void name_by_dates(EntrySink& sink);
    void give_name(std::uint64_t record, const Name& name, const Evidence& why, EntrySink& sink);
    void list_nameless(EntrySink& sink, Progress& progress);
    std::string made_up_name(std::uint64_t record, const std::vector<Draft>& drafts) const;
    void date_fragments(EntrySink& sink);
    void tell_leftover(const Leftover& leftover, EntrySink& sink);
    bool is_of_its_record(const Leftover& leftover);
    void tell_old_name(const Leftover& leftover, EntrySink& sink);

    void read_past_life(const Reference& file, const PastLives::Life& life, EntrySink& sink);
    std::optional<EntryKey> stale_folder(const MaybeTime& created);

    static constexpr std::size_t most_names = 16;  ///< that are kept for one nameless record

    const Source& source_;
    Volume volume_;
    Geometry geometry_;
    FileTable table_;
    IndexLeftovers indexes_;
    RecordWindows windows_;
    BitSet taken_;  ///< clusters held by live files
    std::vector<std::uint64_t> blocks_;
    std::vector<ByteRange> free_;  ///< clusters that no live file holds, in the source
    std::set<std::uint64_t> system_folders_;
    ToldNames told_;
    BitSet nameless_;  ///< records that hold a content or were a folder, and have no name
    std::map<std::uint64_t, std::vector<Leftover>> names_for_;  ///< what leftovers call nameless records
    std::vector<Leftover> headless_;                            ///< leftovers without a reference
    /// Files whose record has been used again, with their birth where a name told it.
    std::map<Reference, MaybeTime> lives_told_;
    /// Folders that files mean and that are not in their record any more, with the oldest of these files in
    /// ticks.
    std::map<EntryKey, std::int64_t> stale_folders_;
};

}  // namespace undershelf::ntfs
