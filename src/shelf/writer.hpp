#pragma once
// Writing a shelf: rows in batched transactions under WAL, so that another terminal can list while a scan
// runs.

#include <chrono>
#include <functional>
#include <limits>
#include <map>
#include <memory>
#include <string>
#include <unordered_map>
#include <vector>

#include "base/progress.hpp"
#include "content/format.hpp"
#include "rating/good_claims.hpp"
#include "shelf/reach.hpp"
#include "shelf/scan_state.hpp"
#include "shelf/shelf.hpp"
#include "volume/moved_files.hpp"
#include "volume/relayout.hpp"
#include "volume/sorting.hpp"
#include "volume/trace.hpp"
#include "writing/files.hpp"

namespace undershelf {

class ShelfWriter {
  public:
    /// Makes a new shelf, or opens one that is there; one that was cut off in its first moment is begun
    /// again. A new one is in the file with the first commit, its source with it. Throws Error: `input` when
    /// the file is something else, `refused` when another scan is writing to it or it would change the
    /// source, `output` when it cannot be written.
    ShelfWriter(const SourceGuard& guard, const std::string& path);
    ~ShelfWriter();
    ShelfWriter(const ShelfWriter&) = delete;
    ShelfWriter& operator=(const ShelfWriter&) = delete;

    /// True for a shelf that has just been made and knows no source yet.
    bool fresh() const { return fresh_; }
    const std::string& path() const { return path_; }

    void set_source(const SourceRecord& source, const std::vector<SourceSample>& samples);
    std::vector<SourceSample> samples() const;
    void set_samples(const std::vector<SourceSample>& samples);
    const ScanState& state() const { return state_; }
    /// Keeps what `change` makes of it.
    void change_state(const std::function<void(ScanState&)>& change);
    /// What of the shelf is there already, for a scan that goes on.
    Shelf view() const { return Shelf(path_); }

    void begin_scan(Reach reach, const CommandLine& command = {});
    void end_scan(const std::string& state);
    /// What a sweep over the source would take.
    void set_sweep_estimate(double seconds);

    std::int64_t begin_job(Work work, const Selection& selection, const CommandLine& command = {});
    void end_job(std::int64_t job, const std::string& state);

    void set_volumes(const std::vector<Volume>& volumes);
    /// Where the clusters of a volume begin that is there already; older shelves did not say.
    void set_grid_start(const Volume& volume);
    /// `waiting`, `reading` or `read`; `again` for one that was read, and is to be read once more.
    std::string volume_progress(int number) const;
    void set_volume_progress(int number, const std::string& progress);
    /// Takes out what an interrupted scan left of a volume, so that it can be read anew under the same ids.
    void clear_volume(int number);

    // What a sweep leaves (writer_sweep.cpp).

    /// Places that are held by several passes over a source.
    struct Checkpoint {
        std::uint64_t swept = 0;  ///< bytes of the source, from its start
        bool settled = false;     ///< all that was found is made volumes of
        /// By family and kind: traces that found no room.
        std::map<std::pair<std::string, std::uint32_t>, std::uint64_t> left_out;
    };
    Checkpoint checkpoint() const;
    void set_checkpoint(const Checkpoint& checkpoint);
    /// Those that start there.
    void drop_traces(const RangeSet& where);
    void add_traces(std::string_view family, const std::vector<Trace>& traces);
    /// Without those in `left_out`, which must outlive it.
    std::unique_ptr<TraceStore> traces(std::string_view family, const RangeSet& left_out) const;

    // Former volumes, which may be settled again and again (writer_volumes.cpp has them, writer_former.cpp
    // their entries, writer_merge.cpp what present volumes tell of as well).

    /// Takes in volumes that were settled: one that was there before keeps its number, present ones stay as
    /// they are, former ones that are not among them are withdrawn. Returns them with their numbers.
    std::vector<Volume> settle_volumes(std::vector<Volume> settled);
    void withdraw_volume(int number);
    /// All present volumes that were read are to be read again.
    void read_present_again();
    void read_again(int volume);  ///< one of them
    /// Takes out the entries of all former volumes, or of one present volume, and remembers their ids for
    /// those that come back.
    void take_out_former();
    void take_out_present(int number);
    /// The id of an entry: the one it had before, or a new one. `stream` and `name` tell entries of one key
    /// apart; empty for folders.
    std::int64_t id_for(const Volume& volume, const EntryKey& key, std::string_view stream,
                        std::string_view name);
    /// Takes the marks off what was there before and did not come back. Returns how many.
    std::uint64_t unmark_set_aside();
    /// Lost entries of a present volume that nothing names, or of which it knows but the name, and that a
    /// former volume tells of as well, become the former one's. Returns how many.
    std::uint64_t merge_told_twice(int present, int former);
    /// What a present volume's tree names: the date of its oldest entry, latest possible for none, and
    /// where its folders lie.
    struct Named {
        std::int64_t oldest = std::numeric_limits<std::int64_t>::max();  ///< ticks
        RangeSet folders;
        RangeSet all_folders;  ///< also those that nothing names
    };
    Named named_in(int volume);
    /// When the newest of a volume's entries was made or changed, ticks; the earliest possible for none.
    std::int64_t newest_date(int volume) const;
    /// Source ranges of the contents of live files and folders.
    RangeSet live_ranges() const;
    /// What present volumes of a family hold: the same, of these, and what the file system has for itself.
    RangeSet held_by(std::string_view family) const;

    /// Of what is where no volume is known.
    static constexpr int in_no_volume = 0;

    // Contents that nothing names (writer_unnamed.cpp).

    /// Everything with a name that has bytes of the source, and what file systems have for themselves.
    void for_each_named(const std::function<void(const NamedContent&)>& visit) const;
    /// Takes out entries without names that are at `from` or after it, of 0 their folders as well, and
    /// remembers their ids for those that come back.
    void take_out_unnamed(std::uint64_t from);
    /// Those that hold what a named entry holds, byte for byte, become that one's: they are listed no more.
    /// Goes by the groups of add_same_content().
    void merge_unnamed_copies();
    /// The entry goes into the folder of its kind.
    void add_unnamed(int volume, const Entry& entry, const Sorting& sorting, const Rating& rating,
                     std::string_view format, const std::optional<Check>& check);

    /// Files of these extensions are counted as they are added, for those who wait for them.
    void watch_for(std::function<bool(std::string_view ext)> wanted) { watched_ = std::move(wanted); }
    std::uint64_t watched() const { return watched_count_; }

    std::int64_t next_id();
    void add_entry(std::int64_t id, int volume, std::int64_t folder, const Entry& entry,
                   const Sorting& sorting, const Rating& rating);
    void add_folder(std::int64_t id, int volume, const std::string& path);
    /// An entry is in another folder than it was added with.
    void move_entry(std::int64_t id, std::int64_t folder);
    void add_evidence(int volume, const std::vector<std::pair<EntryKey, Evidence>>& late);
    /// Entries of the volume lie elsewhere, assumed.
    void lay_anew(int volume, const std::vector<std::pair<EntryKey, Relayout>>& layouts);
    void add_in_use(int volume, const ByteRange& range);
    void add_diagnostic(int volume, const std::string& sentence);
    /// Of no volume; once, however often it is said.
    void add_remark(const std::string& sentence);
    /// What of the source could not be read so far, and what of it is not copied yet.
    void set_unreadable(const Source& source);

    /// Everybody with bytes of the source: entries, and, without an id, file systems themselves. Ends early
    /// once `progress` says so.
    void for_each_claimant(const std::function<void(Claimant&)>& visit,
                           const Progress& progress = Progress());
    /// A file of a former volume of which a check, at least a fair one, found that it holds.
    struct Holding {
        std::int64_t id = 0;
        int volume = 0;
        std::uint64_t size = 0, holds_to = 0;  ///< bytes
    };
    void for_each_holding_former(const std::function<void(const Holding&)>& visit);
    /// Calls `rate` for entries whose rating may change now that all claims are known: all lost ones, and
    /// live ones of which anything is unreadable. Stores what comes back. Ends early when `rate` returns
    /// nothing.
    /// Files of watched extensions come first.
    void rate_all(const RangeSet& unreadable, const RangeSet& not_copied,
                  const std::function<std::optional<Rating>(Subject&)>& rate);

    // Files that were moved (writer_moved.cpp).

    /// Lost entries of which another one of their volume has the same recorded start; and, if these are asked
    /// for, files without one.
    std::vector<LostPlace> lost_places(bool without_start) const;
    /// Each group is one file: its first entry, with the places of the others as earlier names. What is in
    /// the others, where they are folders, is in that one. Returns how many entries were others.
    std::uint64_t unite(std::vector<std::vector<LostPlace>> groups);
    /// An entry is in a system's bin; where it was before, how it was sorted there, and when it was put into
    /// the bin, as far as that is known.
    void set_bin(std::int64_t entry, const std::string& first_path, const Sorting& first,
                 const MaybeTime& deleted);
    /// It only serves a bin or a viewer.
    void set_helper(std::int64_t entry);
    /// What a check of an entry's content to its end came to; nothing when nobody reads its format.
    /// `kind`: how it is sorted by that.
    void set_check(std::int64_t entry, const std::optional<Check>& check, Kind kind);
    /// An entry's content lies in these ranges, by what is in it, and is so long. `evidence` says how that was found.
    void set_mended(std::int64_t entry, std::uint64_t size, const std::vector<ByteRange>& ranges, const Evidence& evidence);
    /// Entries of one content; `live` tells for each whether it is a live one.
    void add_same_content(const std::vector<std::pair<std::int64_t, bool>>& group);
    void clear_same_content();

    void commit();

  private:
    struct Statements;
    void lock(const SourceGuard& guard);
    void open();
    void close();
    void take_away() const;
    void create_schema();
    void take_out(const std::string& volumes, const std::string& realm);
    void remember_ids();
    std::int64_t id_in(const std::string& realm, const EntryKey& key, std::string_view stream,
                       std::string_view name);
    std::int64_t unnamed_folder(int volume, Kind kind);
    void bring_up();
    void tick();

    std::string path_;
    bool fresh_ = false;
    bool made_ = false;       ///< the file was not there before
    bool committed_ = false;  ///< anything, ever
    int exceptions_before_;
    FileDescriptor lock_;  ///< holds the lock among scans
    RangeSet unreadable_;  ///< for selections, of which the writer makes none
    std::unique_ptr<SQLite::Database> db_;
    std::unique_ptr<Statements> statements_;
    std::int64_t next_id_ = 1;
    unsigned rows_ = 0;
    std::chrono::steady_clock::time_point last_commit_;
    std::int64_t scan_ = 0;
    ScanState state_;
    std::function<bool(std::string_view)> watched_;
    std::uint64_t watched_count_ = 0;
    std::unordered_multimap<std::uint64_t, std::int64_t> old_ids_;         ///< by a print of what they were
    std::map<std::pair<int, std::string>, std::int64_t> unnamed_folders_;  ///< by volume and path
};

}  // namespace undershelf
