#pragma once
// Streams the entries of one present NTFS volume: every file record, live and deleted, in the order of their
// numbers; then what folder indexes and journals still tell of files whose record has been reused.
// reader.cpp has the first part, reader_lost.cpp the second.

#include <map>
#include <set>
#include <unordered_set>
#include <vector>

#include "base/bit_set.hpp"
#include "ntfs/file_table.hpp"
#include "volume/file_system.hpp"

namespace undershelf::ntfs {

class Reader final : public VolumeReader {
  public:
    Reader(const Source& source, const Volume& volume, const Geometry& geometry);
    void read(EntrySink& sink, Progress& progress) override;
    void remnants(EntrySink& sink, Progress& progress) override;

  private:
    void read_records(EntrySink& sink, Progress& progress);
    void emit(Draft&& draft, EntrySink& sink);
    bool is_system(const Draft& draft);
    void claim(const std::vector<ByteRange>& ranges);
    void report_unowned(EntrySink& sink);

    void read_index(std::uint64_t folder, EntrySink& sink);
    void read_free_indexes(EntrySink& sink, Progress& progress);
    void read_free_stretch(const ByteRange& range, EntrySink& sink);
    void read_index_slack(Bytes block, std::uint64_t offset, std::uint64_t folder, EntrySink& sink);
    void read_record_slack(const Record& record, std::uint64_t folder, EntrySink& sink);
    /// `folder` is the record of the folder that the index is of; nothing where only the names tell it.
    void scan_slack(Bytes bytes, std::size_t at, std::uint64_t offset, std::optional<std::uint64_t> folder,
                    EntrySink& sink);
    bool is_told(std::uint64_t print);
    void read_index_remnant(Bytes entry, std::uint64_t offset, std::optional<std::uint64_t> folder,
                            EntrySink& sink);

    void read_past_life(const Reference& file, const PastLives::Life& life, EntrySink& sink);
    std::optional<EntryKey> stale_folder(const MaybeTime& created);

    const Source& source_;
    Volume volume_;
    Geometry geometry_;
    FileTable table_;
    Windows windows_;
    BitSet taken_;                 ///< clusters held by live files
    std::vector<ByteRange> free_;  ///< clusters that nobody holds, in the source
    std::set<std::uint64_t> system_folders_;
    std::vector<std::uint64_t> names_told_;  ///< prints of all names in records
    bool names_sorted_ = false;
    std::unordered_set<std::uint64_t> remnants_told_;
    std::set<Reference> lives_told_;  ///< files whose record has been used again
    /// Folders that files mean and that are not in their record any more, with the oldest of these files in
    /// ticks.
    std::map<EntryKey, std::int64_t> stale_folders_;
};

/// Trace::kind of a file record (a: its own number, b: its sequence) and of an index block.
constexpr std::uint32_t record_trace = 1;
constexpr std::uint32_t index_trace = 2;
/// Reports file records and index blocks that start at a sector in the owned part of `buffer`.
void find_traces(const SweepBuffer& buffer, TraceSink& sink);

}  // namespace undershelf::ntfs
