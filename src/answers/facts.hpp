#pragma once
// What the next step is worked out from: what is known of a source, and what was done with it so far.

#include <algorithm>
#include <array>
#include <optional>
#include <string>
#include <vector>

#include "answers/counts.hpp"
#include "export/export.hpp"
#include "scan/inspect.hpp"
#include "shelf/shelf.hpp"

namespace undershelf {

/// The command that asks.
enum class Asked { inspect, scan, summary, check, export_files };

struct Facts {
    Asked asked = Asked::summary;
    std::string source, shelf;          ///< paths; no shelf while nothing is scanned
    std::vector<std::string> settings;  ///< options that every scan of the source has to have
    std::uint64_t size = 0;             ///< of the source, bytes

    bool is_drive = false;
    bool failing = false;                          ///< places of it cannot be read, and it is no image
    bool takes_discards = false;                   ///< by what the system says of the drive
    std::vector<std::string> mounted_at;           ///< where it is mounted for writing
    std::uint64_t not_copied = 0, unreadable = 0;  ///< bytes

    struct OfVolume {
        int number = 0;
        bool former = false, readable = true, own_head = true;
        std::uint64_t size = 0, live_files = 0, live_bytes = 0, files = 0;
    };
    std::vector<OfVolume> volumes;
    std::vector<ScanState::Place> bare_partitions, unread_systems;
    /// Bytes that belong to no volume and no partition; only inspect looks for them.
    std::uint64_t unassigned = 0;

    enum class Pass { none, interrupted, done };
    Pass sweep = Pass::none, contents = Pass::none;
    std::string unfinished_reach;             ///< of a scan that was interrupted, or is running
    std::string last_reach;                   ///< of the last scan, where that is done
    std::vector<std::string> not_looked_for;  ///< formats that a search for some contents left out
    std::optional<SpaceLook> space;
    std::optional<double> sweep_seconds, content_seconds;

    Counts live, lost;
    std::uint64_t without_contents = 0;  ///< lost files of which no byte is left where they were
    std::uint64_t missing_folders = 0;   ///< whose own names are lost
    std::uint64_t waiting = 0;           ///< lost files that are not copied yet
    std::uint64_t checkable = 0;         ///< lost files that a check could say more of
    bool checked = false;                ///< all of them, since the last scan
    bool check_interrupted = false;
    /// Volumes of which most lost contents read as zeros.
    struct OfDiscards {
        int volume = 0;
        std::uint64_t zeros = 0, files = 0;
    };
    std::vector<OfDiscards> discards;
    std::uint64_t broken_live = 0, copies = 0, first_letters = 0;
    std::optional<std::int64_t> a_doubtful_one;  ///< its number

    std::uint64_t marks = 0;
    bool exported = false;                         ///< since anything changed that an export goes by
    std::string exported_to;                       ///< the folder of the last export
    std::vector<std::string> bags;                 ///< that the export has written to just now
    std::array<std::uint64_t, 6> exported_lost{};  ///< lost files that were exported, by grade
    bool export_interrupted = false;
    /// After an export: lost files that it was not asked for, by grade.
    std::array<std::uint64_t, 6> left_out{};

    bool scanned() const { return !shelf.empty(); }
    bool has_swept() const { return sweep == Pass::done || contents == Pass::done; }
    std::uint64_t lost_of(Grade g) const { return lost.by_grade[static_cast<std::size_t>(g)]; }
    std::uint64_t good() const { return likely_or_better(lost); }
    /// Of these, what no export has written yet.
    std::uint64_t left_of(Grade g) const {
        const auto gone_out = exported_lost[static_cast<std::size_t>(g)];
        return lost_of(g) - std::min(gone_out, lost_of(g));
    }
    std::uint64_t good_left() const { return left_of(Grade::likely) + left_of(Grade::verified); }
    bool any_exported() const {
        return std::any_of(exported_lost.begin(), exported_lost.end(), [](auto n) { return n > 0; });
    }
};

Facts facts_of(const Inspection& seen);
Facts facts_of(const Shelf& shelf, Asked asked);
/// At the end of an export.
Facts facts_after(const Shelf& shelf, const ExportOptions& asked, const ExportResult& result);

}  // namespace undershelf
