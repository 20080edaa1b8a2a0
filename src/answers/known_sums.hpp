#pragma once
// Files that somebody knows already, by their SHA-256.

#include <istream>
#include <memory>
#include <string>

#include "shelf/selection.hpp"

namespace undershelf {

/// One sum a line, with or without the name that `sha256sum` writes after it. Empty lines and those after a
/// `#` are passed over. Throws Error(usage) with the line's number for anything else.
KnownSums read_known_sums(std::istream& in, const std::string& file, const std::string& option);
/// Of a file. Throws Error(usage), naming the option, where it cannot be read.
std::shared_ptr<const KnownSums> known_sums_from(const std::string& file, const std::string& option);

}  // namespace undershelf
