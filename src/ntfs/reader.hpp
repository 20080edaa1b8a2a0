#pragma once
// Streams the entries of one present NTFS volume: every file record, live and deleted, in the order of their
// numbers; then what folder indexes still tell of files whose record has been reused.

#include <map>
#include <set>
#include <unordered_set>
#include <vector>

#include "ntfs/mft.hpp"
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

    std::optional<EntryKey> stale_folder(std::optional<std::uint64_t> record, std::uint16_t sequence,
                                         const MaybeTime& created);

    /// The key of the folder that a reference means, and whether it means the folder that is in that record
    /// now.
    struct Parent {
        EntryKey key;
        bool good = true;
    };
    Parent parent_of(std::uint64_t record, std::uint16_t sequence) const;
    /// True when the record still is, or was last, the file that this reference meant.
    bool is_known(std::uint64_t record, std::uint16_t sequence) const;
    bool is_system(std::uint64_t number, const Name& name);

    const Source& source_;
    Volume volume_;
    Geometry geometry_;
    Mft mft_;
    std::vector<Glance> glances_;
    std::vector<bool> taken_;  ///< clusters held by live files
    std::set<std::uint64_t> system_folders_;
    std::unordered_set<std::uint64_t> names_seen_;
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
