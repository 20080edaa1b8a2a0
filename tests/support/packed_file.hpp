#pragma once

#include <string>

namespace undershelf::test {

/// What a file packed by gzip holds. Throws std::runtime_error where it is not there or is cut off.
std::string unpacked_file(const std::string& path);

}  // namespace undershelf::test
