#pragma once
// What every page of a sheet in HTML has: how it looks, and what it does with ticks.

#include <string_view>

namespace undershelf {

std::string_view sheet_style();
std::string_view sheet_script();

}  // namespace undershelf
