#pragma once
// What came of an export, in numbers.

#include <cstdint>
#include <string>

namespace undershelf {

struct ExportedEntry;

struct ExportResult {
    std::uint64_t whole = 0, partial = 0, skipped = 0, failed = 0, folders = 0;
    std::uint64_t bytes = 0;    ///< written, all files together
    std::uint64_t resumed = 0;  ///< of them, entries that an interrupted export had written before
    std::uint64_t links = 0, made_links = 0;  ///< of them, links; and those made links, not text files
    std::uint64_t unrated = 0;                ///< left out, as they have no rating yet
    bool interrupted = false;
    std::string not_noted;  ///< why the shelf does not know of it; empty where it does

    /// Counts what became of one entry.
    void add(const ExportedEntry& line) { count(line, 1); }
    /// What was counted became something else.
    void take_back(const ExportedEntry& line) { count(line, -1); }

  private:
    void count(const ExportedEntry& line, int by);
    std::uint64_t& of(const std::string& outcome);
};

}  // namespace undershelf
