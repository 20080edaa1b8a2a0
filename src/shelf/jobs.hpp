#pragma once
// What was done with a shelf beside scans: checks, marks and exports, each with its selection.

#include <SQLiteCpp/Database.h>

#include <cstdint>
#include <memory>
#include <optional>
#include <string>
#include <vector>

#include "shelf/selection.hpp"

namespace undershelf {

enum class Work : std::uint8_t { check, mark, export_files };

struct JobRecord {
    std::int64_t id = 0;
    Work work{};
    std::string selection;        ///< as selection_json() has it
    std::string folder;           ///< of an export
    std::int64_t after_scan = 0;  ///< how many scans had been begun before
    std::string started, ended;   ///< UTC; `ended` empty while it runs, and where it was cut off
    std::string state;            ///< running, done, interrupted, failed
    bool done() const { return state == "done"; }
};

/// In the order in which they were begun.
std::vector<JobRecord> read_jobs(SQLite::Database& db);
/// Adds one that is running. Returns its number.
std::int64_t begin_job(SQLite::Database& db, Work work, const Selection& selection,
                       const std::string& folder = {});
void end_job(SQLite::Database& db, std::int64_t job, const std::string& state);

/// Notes in a shelf that is only read otherwise what is done with it. Where the shelf cannot be written to
/// nothing is noted, and nothing else is different.
class JobNote {
  public:
    JobNote(const std::string& shelf, Work work, const Selection& selection, const std::string& folder = {});
    /// One that was not ended has failed.
    ~JobNote();
    JobNote(const JobNote&) = delete;
    JobNote& operator=(const JobNote&) = delete;

    void end(const std::string& state);
    /// Why it is not noted; empty where it is.
    const std::string& trouble() const { return trouble_; }

  private:
    std::unique_ptr<SQLite::Database> db_;
    std::int64_t job_ = 0;
    bool ended_ = false;
    std::string trouble_;
};

}  // namespace undershelf
