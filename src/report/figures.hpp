#pragma once
// The figures of a report.

#include <string>
#include <vector>

#include "preview/drawings.hpp"
#include "report/facts.hpp"

namespace undershelf {

struct Figure {
    std::string name;     ///< of its files, without their ends
    std::string caption;  ///< a sentence
    std::string told;     ///< what it shows, for those who do not see it
    std::string svg, png;
};

/// Map of the source, kinds by grade, sizes, dates, chances: those that have something to show.
std::vector<Figure> draw_figures(const ReportFacts& facts, Drawings& drawings);

}  // namespace undershelf
