#pragma once
// One line of exported.jsonl: what became of one entry.

#include <cstdint>
#include <optional>
#include <string>
#include <vector>

#include "base/byte_range.hpp"

namespace undershelf {

struct ExportedEntry {
    std::int64_t id = 0;
    int revision = 0;                        ///< of its layout
    unsigned round = 1;                      ///< of the bag, in which it was written
    std::string path;                        ///< on the volume
    std::optional<std::string> path_in_bag;  ///< begins with data/; none when nothing was written
    std::optional<std::string> link;         ///< of a link: its target as recorded
    std::string leads_to;                    ///< of one made a link in the bag: the place of what it leads to
    std::string first_path;                  ///< where a binned one was before; empty for others
    std::uint64_t size = 0;
    std::uint64_t written = 0;       ///< bytes of the file that are not filled in
    std::vector<ByteRange> missing;  ///< ranges of the file filled with zeros
    std::string sha256;
    std::string outcome;  ///< complete, partial, skipped, failed
    std::string why;
    std::string grade;  ///< empty for none
    double chance = 0;
    std::string checked;                               ///< how strongly; empty for not at all
    std::optional<bool> holds;                         ///< to its end, by a check
    std::string created, modified, accessed, deleted;  ///< ISO 8601; empty for none
    std::optional<std::uint64_t> holds_to;             ///< bytes up to which a check found that it holds
    std::vector<std::string> attributes;               ///< hidden, system, read-only, where set
};

std::string to_json_line(const ExportedEntry& entry);
/// Nothing for a line that is cut off or something else.
std::optional<ExportedEntry> from_json_line(const std::string& line);

/// In the bag's `data`, without anything that leads elsewhere or breaks a line of the manifest.
bool is_place_in_bag(const std::string& path);
/// Could an export have written it? Where it has a file in the bag, it has a place there, and a checksum.
bool is_sound(const ExportedEntry& entry);

/// What is needed of a line to go on with a bag or to check one, without taking all of it apart: lines are of
/// to_json_line()'s making.
struct LineGist {
    std::int64_t id = 0;
    int revision = 0;
    std::uint64_t size = 0;
    std::string path, first_path;
    std::optional<std::string> path_in_bag;
    std::string sha256, outcome;
    std::string leads_to;

    /// Where people look for it on its volume.
    const std::string& shown_path() const { return first_path.empty() ? path : first_path; }
};
std::optional<LineGist> gist_of(const std::string& line);
/// Could an export have written it? As of a whole line.
bool is_sound(const LineGist& line);

}  // namespace undershelf
