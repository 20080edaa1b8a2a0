#pragma once
// The result of a scan: one SQLite file. docs/shelf-format.md describes it.

#include <SQLiteCpp/SQLiteCpp.h>

#include <array>
#include <functional>
#include <memory>
#include <optional>
#include <string>
#include <vector>

#include "base/slash_path.hpp"
#include "content/details.hpp"
#include "rating/rate.hpp"
#include "shelf/jobs.hpp"
#include "shelf/reach.hpp"
#include "shelf/scan_state.hpp"
#include "shelf/selection.hpp"
#include "source/samples.hpp"
#include "source/source.hpp"
#include "volume/model.hpp"

namespace undershelf {

/// Where an entry's dates are from.
enum class Dates : std::uint8_t { none, recorded, argued, inside };

/// What an entry was that is listed no more.
struct SetAside {
    int volume = 0;
    std::string name;
    std::optional<std::int64_t> merged_into;  ///< the entry that it turned out to be
};

/// Has an entry its rating? What a copy does not have yet cannot have one.
enum class Rated : std::uint8_t { not_yet, yes, not_copied };

/// An entry as the shelf has it, without its content.
struct ShelfEntry {
    std::int64_t id = 0;
    std::optional<int> volume;
    Origin origin{};
    std::string folder_path;  ///< of the folder it is in, empty for the root
    std::string name;
    std::string stream;
    NameCertainty name_certainty{};
    bool is_dir = false, system = false, helper = false, binned = false, marked = false;
    std::vector<std::string> marks;          ///< names that it is marked under; With::all
    std::string first_path;                  ///< of a binned one: where it was before
    std::vector<std::string> earlier_names;  ///< paths that it had before, the latest first
    Kind kind{};
    std::string ext;
    std::uint64_t size = 0;
    std::optional<std::string> link;  ///< of a link: its target as recorded; empty for an unknown one
    Rating rating;                    ///< without grade and chance unless it is rated
    Rated rated = Rated::yes;
    Layout layout{};
    MaybeTime created, modified, accessed, deleted;
    std::uint32_t attributes = 0;
    std::int64_t folder = 0;  ///< id of the folder it is in, minus the volume's number for its root
    Dates dates = Dates::none;
    std::string format;  ///< what the content shows; empty for nothing known
    /// What a check of the content to its end came to; nothing where there was none.
    std::optional<int> checked;  ///< how strongly it could be checked: 1 weak, 2 fair, 3 strong
    std::optional<bool> complete;
    std::optional<std::uint64_t> holds_to;
    std::uint64_t proven_to = 0;  ///< bytes
    int revision = 0;
    // With::all:
    bool exported = false;   ///< its content, as it is laid out now
    std::string title;       ///< what its content calls itself
    ContentDetails details;  ///< and tells of itself

    /// Where it is on its volume.
    std::string path() const { return joined_path(folder_path, name); }
    /// Where people look for it: of a binned one its first path.
    std::string shown_path() const { return first_path.empty() ? path() : first_path; }
    /// Where a link leads; empty for all else, and for targets that are lost: what is in the place of one
    /// that is gone is another's.
    std::string target() const { return link && rating.grade != Grade::gone ? *link : std::string(); }
    /// The same as ` -> TARGET`.
    std::string arrow() const { return target().empty() ? std::string() : " -> " + target(); }
    std::string shown_name() const { return first_path.empty() ? name : std::string(name_in(first_path)); }
    std::string shown_folder() const {
        return first_path.empty() ? folder_path : std::string(folder_in(first_path));
    }
};

struct ScanRecord {
    std::string reach, started, ended, state;  ///< state: running, done, interrupted
    CommandRecord command;
    std::optional<double> sweep_seconds;  ///< what a sweep would take, by the rate it read with
};

struct SourceRecord {
    std::string path;
    std::uint64_t size = 0;
    std::uint32_t sector_size = 512;
};

/// What is read of entries: all but the names of their marks and what their contents tell of themselves, or
/// that as well, which takes longer.
enum class With : std::uint8_t { most, all };

/// By what a shelf knows its source again.
std::vector<SourceSample> read_samples(SQLite::Database& db);

class Shelf {
  public:
    enum class Access { read, mark };
    /// Opens a finished or growing shelf. Throws Error(input) when it is no shelf, damaged, or of a later
    /// version, and, to mark, Error(refused) when it is on its own source. All that reads rows throws
    /// Error(input) for what no shelf says.
    explicit Shelf(const std::string& path, Access access = Access::read);

    const std::string& path() const { return path_; }
    SourceRecord source() const;
    /// 16 hex digits by which lists tell the shelf they were made from.
    std::string identity() const;
    /// Without those that were withdrawn.
    std::vector<Volume> volumes() const;
    /// The highest that was ever given, 0 for none.
    int last_volume_number() const;
    /// In the order they were begun.
    std::vector<ScanRecord> scans() const;
    std::optional<ScanRecord> last_scan() const;
    /// Has a scan of this reach been finished?
    bool has_scanned(Reach reach) const;
    /// Can there be entries without a rating?
    bool may_have_unrated() const;
    /// Has the whole source been swept?
    bool has_swept() const { return has_scanned(Reach::traces) || has_scanned(Reach::content); }
    ScanState state() const;
    /// What was done beside scans, in the order it was begun.
    std::vector<JobRecord> jobs() const;
    std::vector<std::string> diagnostics() const;
    /// What could not be read, what was not copied yet among it.
    RangeSet unreadable() const;
    /// Of an image: what its source was not asked for when it was scanned.
    RangeSet not_copied() const;
    /// The first without the second.
    RangeSet unreadable_for_good() const;

    /// Calls `visit` for every selected entry in order; stops early when it returns false.
    void for_each(const Selection& selection, const std::vector<SortKey>& order,
                  const std::function<bool(const ShelfEntry&)>& visit, With with = With::most) const;
    /// Entries by their names, which fit one of a few patterns of SQL's LIKE.
    void for_each_called(const std::vector<std::string>& like,
                         const std::function<bool(const ShelfEntry&)>& visit) const;
    /// Every folder of every volume with its path; roots have negative ids.
    void for_each_folder(const std::function<void(std::int64_t id, const std::string& path)>& visit) const;
    /// The entry with this number, with all that is known of it; nothing where the shelf has no such entry.
    std::optional<ShelfEntry> entry(std::int64_t id) const;
    std::uint64_t count(const Selection& selection) const;
    /// What a selection comes to. Bytes are of files; grades by their number, 0 for those without one.
    struct Sum {
        std::uint64_t folders = 0, files = 0, bytes = 0;
        std::array<std::uint64_t, 6> by_grade{};
        std::uint64_t entries() const { return folders + files; }
    };
    Sum sum(const Selection& selection) const;
    /// Files that a selection has but for how it looks.
    struct LeftOut {
        std::uint64_t helpers = 0, copies = 0, gone = 0;
    };
    LeftOut left_out(const Selection& selection) const;
    /// Numbers of a set that are none of an entry, and the first few of them.
    struct NotEntries {
        std::uint64_t numbers = 0;
        std::vector<std::uint64_t> first;
    };
    NotEntries not_entries(const IdSet& ids, std::size_t most_told) const;
    std::vector<Piece> pieces(std::int64_t entry) const;
    std::vector<ByteRange> claims(std::int64_t entry) const;
    /// Which stretches of the source were allocated to entries, entry by entry.
    void for_each_claim(const std::function<void(Origin, Grade, const std::vector<ByteRange>&)>& visit) const;
    std::vector<Evidence> evidence(std::int64_t entry) const;

    /// What became of an id that was given once and is none of an entry now.
    std::optional<SetAside> set_aside(std::int64_t id) const;

    // What is counted from here on is without file systems' own files and helpers. It is counted once: a
    // shelf that grows is opened anew.

    /// Entries and bytes by one column of the entries table and the grade.
    struct Tally {
        std::int64_t key = 0;  ///< 0 for no volume
        Grade grade{};
        bool is_dir = false;
        std::uint64_t entries = 0, bytes = 0;
    };
    /// live_volume: by volume, of live entries alone.
    enum class TallyBy { origin, kind, volume, live_volume };
    std::vector<Tally> tally(TallyBy by) const;

    /// Files that only serve a bin or a viewer.
    std::uint64_t helpers() const;
    /// Lost files that a live file holds byte for byte.
    std::uint64_t copies() const;
    /// Live files that a check found not to hold to their end.
    std::uint64_t broken_live() const;
    /// Lost files that have something to read and were never checked, by extension.
    std::vector<std::pair<std::string, std::uint64_t>> unchecked() const;
    /// Lost files that are not copied yet.
    std::uint64_t lost_not_copied() const;
    /// Folders with a name that was made for them.
    std::uint64_t stand_in_folders() const;
    /// Of the doubtful lost files the one with the best chance.
    std::optional<std::int64_t> best_doubtful() const;
    /// Lost files whose names are of this certainty.
    std::uint64_t uncertain_names(NameCertainty certainty) const;
    /// Adds the selected entries to those marked under a name, or without one, or takes them out; without a
    /// name out of all. Returns how many changed. The shelf must be open with Access::mark. Throws
    /// Error(refused) for a name in a shelf of a version that had none.
    std::uint64_t mark(const Selection& selection, bool on, const std::string& name = {},
                       const CommandLine& command = {});
    /// Names that entries are marked under, and how many each.
    std::vector<std::pair<std::string, std::uint64_t>> mark_names() const;

    SQLite::Database& database() const { return *db_; }
    /// The condition of a selection, with what it refers to at hand.
    SqlClause condition_of(const Selection& selection) const;

  private:
    std::string path_;
    struct Counts;
    const Counts& counts() const;
    void add_moved_folders(const Selection& selection, std::vector<std::string>& paths) const;
    std::uint64_t count_where(const std::string& first, const Selection& selection) const;
    std::uint64_t add_marks(const SqlClause& where, const std::string& chosen, const std::string& name);
    std::uint64_t take_marks(const SqlClause& where, const std::string& chosen, const std::string& name);

    std::unique_ptr<RangeSet> unread_ = std::make_unique<RangeSet>();  ///< for the database's functions
    std::unique_ptr<SQLite::Database> db_;
    mutable std::shared_ptr<const Counts> counts_;
    mutable std::unique_ptr<SQLite::Statement> pieces_query_;  ///< prepared once, for exports of many files
};
/// The four times of an entry have their zones in one number: 8 bits each (created lowest, then modified,
/// accessed, deleted), quarter hours east of UTC plus 100; 0 for a local time of unknown zone.
std::int64_t pack_zones(const MaybeTime& created, const MaybeTime& modified, const MaybeTime& accessed,
                        const MaybeTime& deleted);
std::int16_t unpack_zone(std::int64_t zones, int index);

}  // namespace undershelf
