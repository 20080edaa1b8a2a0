#pragma once
// Tests that need what not every machine has: root, loop devices, file systems that can be mounted.

#include <gtest/gtest.h>

#include <cstdlib>
#include <iostream>

namespace undershelf::test {

/// Where CI is set everything must be there.
inline bool may_be_missing(const std::string& what, const std::string& why) {
    std::cerr << "\n*** SKIPPED: " << what << " is needed, and is not to be had here. " << why << "\n\n";
    return std::getenv("CI") == nullptr;
}

}  // namespace undershelf::test

/// Leaves the test unless `there`; fails instead where CI is set.
#define UNDERSHELF_NEEDS(there, what, why)                                              \
    if (!(there)) {                                                                     \
        if (undershelf::test::may_be_missing(what, why)) GTEST_SKIP() << (what);        \
        FAIL() << (what) << " is needed, and must be there where CI is set. " << (why); \
    }                                                                                   \
    static_assert(true, "so that it ends with a semicolon")
