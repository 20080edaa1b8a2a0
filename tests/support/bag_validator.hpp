#pragma once
// Is a folder a valid bag? Written from RFC 8493, sections 2 and 3, and independent of the program.

#include <string>
#include <vector>

namespace undershelf::test {

/// Sentences on what the standard does not allow; none for a bag that is complete and valid.
std::vector<std::string> against_bagit(const std::string& folder);

}  // namespace undershelf::test
