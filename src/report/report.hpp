#pragma once
// A report on a job: a page for the customer and a colleague, its figures, a list of the files, and all of it
// for programs.

#include "report/facts.hpp"
#include "report/figures.hpp"

namespace undershelf {

struct ReportResult {
    std::vector<std::string> files;  ///< that were written
    bool interrupted = false;        ///< then none are
    ReportFacts facts;
};

/// Writes into a folder of its own; nothing over other files. All files are there in the end, or none. Throws
/// Error(refused) where one is there, or the source could be changed; for a bag of another shelf;
/// Error(input) and Error(usage) as of what is read.
ReportResult write_report(const Shelf& shelf, const Source* source, const ReportOptions& options,
                          Progress& progress);

std::string report_html(const ReportFacts& facts, const std::vector<Figure>& figures);
nlohmann::ordered_json report_json(const ReportFacts& facts);

/// Grades as customers are told them: `proven`, `likely`, `doubtful`, `in part`, `gone`.
std::string_view customer_word(Grade grade);

}  // namespace undershelf
