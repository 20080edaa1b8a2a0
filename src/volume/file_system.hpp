#pragma once
// The one interface of all file systems. A new file system is a folder with one
// implementation of FileSystem and one line in systems/file_systems.cpp.

#include <memory>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "base/progress.hpp"
#include "source/source.hpp"
#include "volume/budget.hpp"
#include "volume/model.hpp"
#include "volume/settling.hpp"
#include "volume/trace.hpp"

namespace undershelf {

/// Where a file lies better than was said before.
struct Relayout {
    std::vector<ByteRange> ranges;   ///< of the source, in the order of its content; assumed
    std::vector<Evidence> evidence;  ///< in place of what was said of how its layout was assumed
};

/// A name that an entry had before.
struct OldName {
    EntryKey folder;           ///< that it was in
    std::string name;          ///< without its path
    bool incomplete = false;   ///< a part of it is lost
    std::uint64_t source = 0;  ///< where it is written, bytes of the source
};

/// Takes entries as they are found. A folder may come after what is in it.
class EntrySink {
  public:
    explicit EntrySink(const Budget& budget) : budget_(budget) {}
    virtual ~EntrySink() = default;
    /// What the volume may still cost.
    Budget& budget() { return budget_; }
    virtual void entry(Entry&& entry) = 0;
    /// More that speaks for or against an entry handed over before.
    virtual void evidence(const EntryKey& key, Evidence&& evidence) = 0;
    /// An entry handed over before was called so before it was renamed or moved.
    virtual void old_name(const EntryKey& key, const OldName& name) {
        evidence(key,
                 {Fact::old_name, name.source, name.incomplete ? old_name_bit::incomplete : 0, name.name});
    }
    /// Another layout for a lost file handed over before, whose layout is assumed, or for a folder that goes
    /// on further than was known.
    virtual void lay_anew(const EntryKey& key, Relayout&& layout) = 0;
    /// Bytes in use by the file system itself, or by nobody that is listed.
    virtual void in_use(const ByteRange& range) = 0;
    /// A structure that is broken: what, where, and what was done instead.
    virtual void diagnostic(std::string sentence) = 0;

  private:
    Budget budget_;
};

/// Some of a volume's own structures.
struct Structure {
    std::string what;               ///< in words, plural: `folders`
    std::vector<ByteRange> ranges;  ///< of the source
};

struct ReadOptions {
    std::string code_page = "437";    ///< of names kept in an OEM code page
    std::optional<int> zone_minutes;  ///< offset from UTC of local times, where the technician knows it
    std::uint64_t search_bytes = bound::search_bytes;  ///< of free space that is looked through for folders
};

/// Room on a volume, as its own allocation structures tell.
struct Space {
    std::uint64_t used = 0;               ///< bytes
    std::uint64_t free = 0;               ///< bytes
    std::vector<ByteRange> free_samples;  ///< some free source ranges, spread over the volume
};

/// One opened volume. Calls come in the order read, remnants; or structures alone.
class VolumeReader {
  public:
    virtual ~VolumeReader() = default;
    /// Before it is read: clusters of folders that a sweep has found, by their places in the source. What of
    /// them is free is looked at as well.
    virtual void expect_folders(const std::vector<std::uint64_t>& /*places*/) {}
    /// Streams the volume's entries: the live tree first, then the deleted ones still marked as such.
    virtual void read(EntrySink& sink, Progress& progress) = 0;
    /// Streams what slack, freed nodes, index leftovers or a journal still tell of beyond that.
    virtual void remnants(EntrySink& sink, Progress& progress) = 0;
    /// Where the structures of a present volume are that its names and layouts are read from, live ones and
    /// those of which it says itself where they were, the most important first. Reads no more than these. Of
    /// a volume that is none any more: nothing.
    virtual std::vector<Structure> structures(Progress& /*progress*/) { return {}; }
};

/// A volume that may be here.
struct Recognition {
    Volume volume;
    std::vector<std::string> remarks;  ///< sentences on what is damaged or contradicts
};

class FileSystem {
  public:
    virtual ~FileSystem() = default;
    virtual std::string_view family() const = 0;
    /// The names of what it reads, such as FAT12, FAT16 and FAT32.
    virtual std::vector<std::string_view> systems() const = 0;

    /// Ticks; dates of its files that lie no further apart have no order.
    virtual std::int32_t date_resolution() const { return 0; }

    /// The volume whose head is at `offset` bytes, with how sure this is in `support`; nothing when there
    /// is none.
    virtual std::optional<Recognition> recognise(const Source& source, std::uint64_t offset,
                                                 const ReadOptions& options = {}) const = 0;
    /// The volumes, at most a few, that a copy of a head standing at `at` may belong to. `support` says how
    /// well the structures it points to hold.
    virtual std::vector<Recognition> recognise_copy(const Source& source, std::uint64_t at,
                                                    const ReadOptions& options = {}) const = 0;
    /// Where copies of a head may be if a volume fills `stretch` of the source: bytes, a few at most.
    virtual std::vector<std::uint64_t> copy_places(const ByteRange& stretch,
                                                   std::uint32_t sector_size) const = 0;
    /// Could this sector, 512 bytes, be a head of a volume or a copy of one? Asked for every sector of a
    /// source, so it looks at these bytes alone, from many threads at once.
    virtual bool may_be_head(Bytes sector) const = 0;
    /// Could the sector be the beginning of a table by which a volume without a head is found? As above.
    virtual bool may_be_table(Bytes) const { return false; }
    /// The volume whose tables begin at these two places of the source, which hold the same bytes.
    virtual std::optional<Recognition> recognise_tables(const Source&, std::uint64_t, std::uint64_t,
                                                        const ReadOptions&) const {
        return std::nullopt;
    }
    /// Bytes from a volume's start to its head.
    virtual std::uint64_t head_distance() const { return 0; }
    /// How full the volume is, by its own books. Reads at most a few MiB.
    virtual std::optional<Space> space(const Source& source, const Volume& volume) const = 0;
    /// Opens a volume that was recognised, settled or told of before. A present one is read by its own
    /// tables; where there are none any more, Volume::geometry says what is known of it, and the traces that
    /// fit are looked up among `traces`. Throws Error(input) when its head cannot be read any more.
    virtual std::unique_ptr<VolumeReader> open(const Source& source, const Volume& volume,
                                               const TraceStore& traces,
                                               const ReadOptions& options) const = 0;
    /// May a volume have more free space than its reader looks through?
    virtual bool is_searched_in_part(const Volume&, const ReadOptions&) const { return false; }
    /// Where clusters of a present volume's folders are, by traces that it does not tell of: folders that it
    /// has lost track of. What is older than all that it names is not its own.
    virtual std::vector<std::uint64_t> lost_folders(const Source&, const PresentLife&, const TraceStore&,
                                                    const ReadOptions&) const {
        return {};
    }
    /// Does a present volume tell itself of all that is among its own structures, so that traces there
    /// are no former volume's?
    virtual bool accounts_for_its_space() const { return true; }
    /// Where that is not so: what of its own structures a present volume has in use.
    virtual RangeSet own_use(const Source&, const Volume&) const { return {}; }
    /// Reports the traces that start in the owned part of a buffer. Keeps no state, so that many buffers can
    /// be swept at the same time.
    virtual void find_traces(const SweepBuffer& buffer, TraceSink& sink) const = 0;
    /// The former volumes that traces speak for, best supported first. What the present ones' own folders and
    /// tables say makes none.
    virtual std::vector<Recognition> settle(const Settling& settling, const Progress& progress) const = 0;
    /// The volume that is where somebody says. Throws Error(usage), naming what else must be said.
    virtual Recognition as_told(const VolumeHint& told, const Settling& settling) const = 0;
};

}  // namespace undershelf
