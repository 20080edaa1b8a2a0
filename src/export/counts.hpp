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
    /// Of the selected files, those that the bag has from earlier rounds, and what of them is partial.
    std::uint64_t already = 0, already_partial = 0;
    std::uint64_t no_room = 0;                      ///< files that no destination had room for
    std::uint64_t links = 0, made_links = 0;        ///< of them, links; and those made links, not text files
    std::uint64_t unrated = 0;                      ///< left out, as they have no rating yet
    std::uint64_t gone = 0;                         ///< left out, as nothing of them is theirs any more
    std::map<std::string, std::uint64_t> by_grade;  ///< files written, by the word of their grade
    std::uint64_t broken = 0;  ///< of them, those that a check found not to hold to their end
    /// The first of these: where they are in the bag, and up to which byte they hold.
    std::vector<std::pair<std::string, std::uint64_t>> first_broken;
    bool interrupted = false;
    std::string not_noted;  ///< why the shelf does not know of it; empty where it does
    /// A bag that the export has written to.
    struct Part {
        std::string folder;
        unsigned round = 1;
        std::uint64_t files = 0, bytes = 0;
        bool added = false;  ///< anything
        /// Files of earlier rounds that are not there any more as they were, and files that are not of an
        /// export.
        std::uint64_t unfit = 0, foreign = 0;
        std::vector<std::string> first_unfit, first_foreign;
    };
    std::vector<Part> parts;

    /// Counts what became of one entry.
    void add(const ExportedEntry& line) { count(line, 1); }
    /// What was counted became something else.
    void take_back(const ExportedEntry& line) { count(line, -1); }

  private:
    void count(const ExportedEntry& line, int by);
    std::uint64_t& of(const std::string& outcome);
};

}  // namespace undershelf
