#pragma once
// The bag itself: its lines, its journal while it is being filled, and its tag files once it is complete.

#include <fstream>
#include <optional>
#include <string>
#include <vector>

#include "base/byte_range.hpp"

namespace undershelf {

/// One line of exported.jsonl.
struct ExportedEntry {
    std::int64_t id = 0;
    std::string path;                        ///< on the volume
    std::optional<std::string> path_in_bag;  ///< begins with data/; none when nothing was written
    std::uint64_t size = 0;
    std::uint64_t written = 0;       ///< bytes of the file that are not filled in
    std::vector<ByteRange> missing;  ///< ranges of the file filled with zeros
    std::string sha256;
    std::string outcome;  ///< whole, partial, skipped, failed
    std::string why;
    std::vector<std::string> attributes;  ///< hidden, system, read-only, where set
};

std::string to_json_line(const ExportedEntry& entry);
/// Nothing for a line that is cut off or something else.
std::optional<ExportedEntry> from_json_line(const std::string& line);

class Bag {
  public:
    /// Opens a new or interrupted bag in `folder`. `purpose` names the job (source and selection); an
    /// interrupted bag is only gone on with for the same one. Throws Error(refused).
    Bag(std::string folder, const std::string& purpose);

    /// What was exported before the interruption.
    const std::vector<ExportedEntry>& before() const { return before_; }
    void add(const ExportedEntry& entry);
    std::string folder() const { return folder_; }
    std::string temporary_path() const;
    /// Writes manifest and tag files; the folder is a bag from here on.
    void complete(const std::string& description);

  private:
    std::string folder_, work_;
    std::vector<ExportedEntry> before_;
    std::ofstream journal_;
};

}  // namespace undershelf
