#pragma once
// What a report tells, worked out once: both its page and its JSON, and the figures, are made from this.

#include <array>
#include <map>
#include <nlohmann/json.hpp>
#include <optional>
#include <string>
#include <vector>

#include "answers/counts.hpp"
#include "answers/group_words.hpp"
#include "base/progress.hpp"
#include "preview/looking.hpp"
#include "report/handed_over.hpp"
#include "report/wanted.hpp"

namespace undershelf {

/// Who has which part of the source; the first that fits has a stretch.
enum class Holder : std::uint8_t { unreadable, live, lost, former, unnamed, unallocated };
inline constexpr std::size_t holders = 6;
std::string_view words_of(Holder holder);

/// Counts of files by month, `202403`.
using Months = std::map<int, std::uint64_t>;

struct ReportPreview {
    ShelfEntry entry;
    Drawn drawn;
    std::string picture;  ///< a JPEG file
};

struct ReportFacts {
    std::string title, case_name, by, made;  ///< `made`: ISO 8601, UTC
    std::string shelf, identity, version;
    SourceRecord source;
    std::string source_name;  ///< without its folders
    std::vector<Volume> volumes;
    Rows by_volume;
    std::vector<std::string> happened;  ///< sentences for the customer

    // Of the selection: files alone.
    std::uint64_t files = 0, bytes = 0;
    std::map<Kind, Counts> kinds;
    std::map<Origin, Counts> origins;
    std::vector<Group> folders;               ///< the largest
    std::array<std::uint64_t, 10> chances{};  ///< files by tenths of their chance
    std::array<double, 10> chance_sums{};
    std::array<std::uint64_t, 14> sizes{};  ///< files by powers of four from 256 bytes on
    Months created, changed, deleted;
    std::vector<ShelfEntry>
        most_doubtful;                ///< of those that are called likely or better, the least sure first
    std::vector<std::string> doubts;  ///< why, beside each
    std::vector<ReportPreview> previews;
    std::string no_previews;  ///< why there are none, where the source cannot be read

    std::optional<std::vector<WantedLine>> wanted;
    std::vector<HandedOver> bags;

    // For the colleague.
    nlohmann::ordered_json summary;                       ///< as `summary --format json` gives it
    std::vector<std::array<std::uint64_t, holders>> map;  ///< bytes of each part of the source, in its order
    RangeSet unreadable, not_copied;
};

struct ReportOptions {
    std::string to;  ///< a folder
    Selection selection;
    std::vector<std::string> bags;
    std::string wanted;  ///< a file; empty for none
    std::string title, case_name, by;
    std::string made;     ///< the date that it bears
    std::string version;  ///< the program's
    bool figures_only = false;
    std::string decoder_program = {};
};

/// `source`: null where it cannot be opened; then nothing of it is drawn.
ReportFacts gather_facts(const Shelf& shelf, const Source* source, const ReportOptions& options,
                         Drawings& drawings, Progress& progress);

}  // namespace undershelf
