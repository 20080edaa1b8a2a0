#pragma once
// The two parts of a report's page.

#include <string>

#include "report/report.hpp"

namespace undershelf {

/// For the customer: none of our words, no path of this machine.
void append_customer_page(std::string& out, const ReportFacts& facts);
/// For a colleague who wants to check it.
void append_colleague_pages(std::string& out, const ReportFacts& facts, const std::vector<Figure>& figures);

/// `<tr>` with cells; those after the first are numbers.
void append_row(std::string& out, const std::vector<std::string>& cells, const char* kind = "td");

}  // namespace undershelf
