#pragma once
// Writing a shelf: rows in batched transactions under WAL, so that another terminal can list while a scan
// runs.

#include <chrono>
#include <functional>
#include <memory>
#include <string>
#include <vector>

#include "base/progress.hpp"
#include "shelf/shelf.hpp"
#include "volume/relayout.hpp"

namespace undershelf {

/// A short stretch of a source and its SHA-256 in hex: by a few dozen of them a shelf knows its source again.
struct SourceSample {
    ByteRange range;
    std::string sha256;
};

std::vector<SourceSample> read_samples(SQLite::Database& db);

class ShelfWriter {
  public:
    /// Makes a new shelf, or opens one that is there. Throws Error(input) when the file is something else,
    /// and Error(refused) when another scan is writing to it.
    explicit ShelfWriter(const std::string& path);
    ~ShelfWriter();
    ShelfWriter(const ShelfWriter&) = delete;
    ShelfWriter& operator=(const ShelfWriter&) = delete;

    /// True for a shelf that has just been made and knows no source yet.
    bool fresh() const { return fresh_; }
    const std::string& path() const { return path_; }

    void set_source(const SourceRecord& source, const std::vector<SourceSample>& samples);
    std::vector<SourceSample> samples() const;
    void set_setting(const std::string& name, const std::string& value);
    /// What of the shelf is there already, for a scan that goes on.
    Shelf view() const { return Shelf(path_); }

    void begin_scan(const std::string& reach);
    void end_scan(const std::string& state);

    void set_volumes(const std::vector<Volume>& volumes);
    /// `waiting`, `reading` or `read`.
    std::string volume_progress(int number) const;
    void set_volume_progress(int number, const std::string& progress);
    /// Takes out what an interrupted scan left of a volume, so that it can be read anew under the same ids.
    void clear_volume(int number);

    std::int64_t next_id();
    void add_entry(std::int64_t id, int volume, std::int64_t folder, const Entry& entry,
                   const Rating& rating);
    void add_folder(std::int64_t id, int volume, const std::string& path);
    /// An entry stands in another folder than it was added with.
    void move_entry(std::int64_t id, std::int64_t folder);
    void add_evidence(int volume, const std::vector<std::pair<EntryKey, Evidence>>& late);
    /// Entries of the volume lie elsewhere, assumed.
    void lay_anew(int volume, const std::vector<std::pair<EntryKey, Relayout>>& layouts);
    void add_in_use(int volume, const ByteRange& range);
    void add_diagnostic(int volume, const std::string& sentence);
    void set_unreadable(const RangeSet& ranges);

    /// Everybody with bytes of the source: entries, and, without an id, file systems themselves. Ends early
    /// once `progress` says so.
    void for_each_claimant(const std::function<void(const Claimant&)>& visit,
                           const Progress& progress = Progress());
    /// Calls `rate` for entries whose rating may change now that all claims are known: all lost ones, and
    /// live ones of which anything is unreadable. Stores what comes back. Ends early when `rate` returns
    /// nothing.
    void rate_all(const RangeSet& unreadable, const std::function<std::optional<Rating>(Subject&)>& rate);

    /// An entry stands in a system's bin; where it was before, and when it was put there.
    void set_bin(std::int64_t entry, const std::string& first_path, const MaybeTime& deleted);
    /// Entries of one content; `live` tells for each whether it is a live one.
    void add_same_content(const std::vector<std::pair<std::int64_t, bool>>& group);
    void clear_same_content();

    void commit();

  private:
    struct Statements;
    void create_schema();
    void tick();

    std::string path_;
    bool fresh_ = false;
    int lock_ = -1;  ///< a file descriptor that holds the lock among scans
    std::unique_ptr<SQLite::Database> db_;
    std::unique_ptr<Statements> statements_;
    std::int64_t next_id_ = 1;
    unsigned rows_ = 0;
    std::chrono::steady_clock::time_point last_commit_;
    std::int64_t scan_ = 0;
};

}  // namespace undershelf
