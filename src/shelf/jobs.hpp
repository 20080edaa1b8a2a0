#pragma once
// What was done with a shelf, by which command; and what was done beside scans: checks, marks and exports,
// each with its selection.

#include <SQLiteCpp/SQLiteCpp.h>

#include <cstdint>
#include <memory>
#include <optional>
#include <string>
#include <vector>

#include "shelf/exported.hpp"
#include "shelf/selection.hpp"

namespace undershelf {

/// The command that does something: the program's version, and what was typed after its name.
struct CommandLine {
    std::string version;
    std::vector<std::string> arguments;
};
/// As a shelf has it, with its exit status once that is known. All empty for earlier versions.
struct CommandRecord {
    std::string version;
    std::string arguments;  ///< a list in JSON
    std::optional<int> exit;
};
/// Version and arguments, the latter as a list in JSON, to two places of a statement.
void bind_command(SQLite::Statement& s, int first, const CommandLine& command);
/// From three columns: version, options, exit.
CommandRecord command_in(SQLite::Statement& q, int first);
/// How the command ended that wrote to the shelf and began at `began` (ISO 8601, UTC) or later. Where the
/// shelf cannot be written to it stays unknown.
void note_exit(const std::string& shelf, const CommandLine& command, const std::string& began, int status);

enum class Work : std::uint8_t { check, mark, export_files };
const char* word(Work work);

struct JobRecord {
    std::int64_t id = 0;
    Work work{};
    std::string selection;        ///< as selection_text() has it
    std::string folder;           ///< of an export
    std::int64_t after_scan = 0;  ///< how many scans had been begun before
    std::string started, ended;   ///< UTC; `ended` empty while it runs, and where it was cut off
    std::string state;            ///< running, done, interrupted, failed
    CommandRecord command;
    bool done() const { return state == "done"; }
};

/// In the order in which they were begun.
std::vector<JobRecord> read_jobs(SQLite::Database& db);
/// Adds one that is running. Returns its number.
std::int64_t begin_job(SQLite::Database& db, Work work, const Selection& selection,
                       const CommandLine& command = {}, const std::string& folder = {});
void end_job(SQLite::Database& db, std::int64_t job, const std::string& state);

/// Notes in a shelf that is only read otherwise what is done with it. Where the shelf cannot be written to
/// nothing is noted, and nothing else is different.
class JobNote {
  public:
    JobNote(const std::string& shelf, Work work, const Selection& selection, const CommandLine& command = {},
            const std::string& folder = {});
    /// One that was not ended has failed.
    ~JobNote();
    JobNote(const JobNote&) = delete;
    JobNote& operator=(const JobNote&) = delete;

    /// `exported`: what an export has written, all in one step with its end.
    void end(const std::string& state, const std::vector<ExportedRevision>& exported = {});
    /// Why it is not noted; empty where it is.
    const std::string& trouble() const { return trouble_; }

  private:
    std::string shelf_;
    std::unique_ptr<SQLite::Database> db_;
    std::int64_t job_ = 0;
    bool ended_ = false;
    std::string trouble_;
};

}  // namespace undershelf
