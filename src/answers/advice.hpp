#pragma once
// What to do next, in sentences with their commands.

#include <string>
#include <vector>

#include "answers/counts.hpp"

namespace undershelf {

std::vector<std::string> advice(const Shelf& shelf, const Totals& totals);

}  // namespace undershelf
