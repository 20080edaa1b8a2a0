#pragma once
// What the program said or wrote once, and what it says now.

#include <string>

namespace undershelf::test {

/// A test fails where `now` is not what tests/volumes/NAME.said has; the first lines that differ are told.
/// With UNDERSHELF_SAY_ANEW in the environment the file is written anew, to be read before it is kept.
void expect_said(const std::string& name, const std::string& now);

/// The volume tests/volumes/NAME.img.gz.
std::string made_volume(const std::string& name);

}  // namespace undershelf::test
