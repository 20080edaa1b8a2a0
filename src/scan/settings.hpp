#pragma once
// The settings that decide what a scan finds: a shelf is only gone on with under the same ones.

#include <string>
#include <vector>

#include "scan/scan.hpp"

namespace undershelf {

/// In one line, as the shelf keeps it.
std::string settings_text(const ScanOptions& options);
/// The options that ask for the settings of such a line; none for the usual ones.
std::vector<std::string> settings_options(const std::string& text);

}  // namespace undershelf
