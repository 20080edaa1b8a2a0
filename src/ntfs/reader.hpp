#pragma once
// Streams the entries of one present NTFS volume: every file record, live and deleted, in the order of their
// numbers; then what folder indexes and journals still tell of files whose record has been reused.
// reader.cpp has the first part, reader_lost.cpp the second.

#include <map>
#include <set>
#include <unordered_set>
#include <vector>

#include "ntfs/mft.hpp"
#include "ntfs/past_lives.hpp"
#include "volume/file_system.hpp"

namespace undershelf::ntfs {

class Reader final : public VolumeReader {
  public:
    Reader(const Source& source, const Volume& volume, const Geometry& geometry);
    void read(EntrySink& sink, Progress& progress) override;
    void remnants(EntrySink& sink, Progress& progress) override;

  private:
    void read_record(std::uint64_t number, EntrySink& sink);
    void emit(const FileInfo& info, std::uint64_t number, const Name& name, EntrySink& sink);
    void emit_stream(const Entry& file, const Stream& stream, EntrySink& sink);
    void describe(Entry& entry, const FileInfo& info, std::uint64_t number) const;
    void claim(const std::vector<ByteRange>& ranges);
    void report_unowned(EntrySink& sink);

    void read_index(std::uint64_t folder, EntrySink& sink);
    void read_index_slack(Bytes block, std::uint64_t offset, std::uint64_t folder, EntrySink& sink);
    void read_record_slack(const Record& record, std::uint64_t folder, EntrySink& sink);
    void scan_slack(Bytes bytes, std::size_t at, std::uint64_t offset, std::uint64_t folder, EntrySink& sink);
    void read_index_remnant(Bytes entry, std::uint64_t offset, std::uint64_t folder, EntrySink& sink);

    void read_past_life(const Reference& file, const PastLives::Life& life, EntrySink& sink);
    std::optional<EntryKey> stale_folder(const MaybeTime& created);

    void read_journals(EntrySink& sink, Progress& progress);
    const PastLives::Life* life_of(std::uint64_t record) const;
    void recall(Entry& entry, std::uint64_t number, const FileInfo& info) const;
    std::string path_of(Reference folder, const std::u16string& name) const;

    /// The key of the folder that a reference means, and whether it means the folder that is in that record
    /// now.
    struct Parent {
        EntryKey key;
        bool good = true;
    };
    Parent parent_of(const Reference& folder) const;
    /// True when the record still is, or was last, the file that this reference meant.
    bool is_known(const Reference& file) const;
    bool is_system(std::uint64_t number, const Name& name);
    FileInfo file_of(std::uint64_t number) const;

    // Second numbers of entry keys. A record's present file has {number, 0} as a folder, else {number, 1}.
    static constexpr std::uint64_t first_past_life = 2, leftover_life = 1ull << 32;
    /// A file whose record has been used again.
    static EntryKey life_key(const Reference& file) { return {file.record, first_past_life + file.sequence}; }

    const Source& source_;
    Volume volume_;
    Geometry geometry_;
    Mft mft_;
    std::vector<Glance> glances_;
    std::vector<bool> taken_;  ///< clusters held by live files
    std::set<std::uint64_t> system_folders_;
    PastLives past_;
    std::vector<std::uint64_t>
        names_told_;  ///< prints of all names in records; sorted before remnants are read
    std::unordered_set<std::uint64_t> remnants_told_;
    std::set<Reference> lives_told_;  ///< files whose record has been used again
    /// Folders that files mean and that are not in their record any more, with the oldest of these files in
    /// ticks.
    std::map<EntryKey, std::int64_t> stale_folders_;
};

/// By what a name in a folder is known again: the folder's record, the name and its time of creation.
std::uint64_t name_print(std::uint64_t folder, const Name& name);

/// Trace::kind of a file record (a: its own number, b: its sequence) and of an index block.
constexpr std::uint32_t record_trace = 1;
constexpr std::uint32_t index_trace = 2;
/// Reports file records and index blocks that start at a sector in the owned part of `buffer`.
void find_traces(const SweepBuffer& buffer, TraceSink& sink);

}  // namespace undershelf::ntfs
