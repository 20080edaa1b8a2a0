#pragma once
// What came of an export, in numbers.

#include <cstdint>
#include <map>
#include <string>
#include <utility>
#include <vector>

namespace undershelf {

struct ExportedEntry;

struct ExportResult {
    /// complete: every byte was read, and none is known lost. It says nothing of what the bytes are.
    std::uint64_t complete = 0, partial = 0, skipped = 0, failed = 0, folders = 0;
    std::uint64_t bytes = 0;    ///< written, all files together
    std::uint64_t resumed = 0;  ///< of them, entries that an interrupted export had written before
    std::uint64_t links = 0, made_links = 0;        ///< of them, links; and those made links, not text files
    std::uint64_t unrated = 0;                      ///< left out, as they have no rating yet
    std::uint64_t gone = 0;                         ///< left out, as nothing of them is theirs any more
    std::map<std::string, std::uint64_t> by_grade;  ///< files written, by the word of their grade
    std::uint64_t broken = 0;  ///< of them, those that a check found not to hold to their end
    /// The first of these: where they are in the bag, and up to which byte they hold.
    std::vector<std::pair<std::string, std::uint64_t>> first_broken;
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
