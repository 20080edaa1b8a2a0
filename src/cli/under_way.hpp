#pragma once
// The command that this process carries out, as the journal of a shelf tells of it.

#include <string>
#include <vector>

#include "shelf/jobs.hpp"

namespace undershelf::cli {

inline constexpr const char* program_version = "0.1";

struct UnderWay {
    CommandLine line;
    std::string began;  ///< ISO 8601, UTC
    std::string shelf;  ///< that the command writes to; empty for none
};
/// One a process.
UnderWay& under_way();
/// From here on the command writes to this shelf; its line, for the shelf's journal.
const CommandLine& noted_in(const std::string& shelf);
/// Notes there how the command ended.
void note_end(int status);

}  // namespace undershelf::cli
