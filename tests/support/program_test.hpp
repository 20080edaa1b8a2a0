#pragma once
// A folder of its own, and the built program in it.

#include <gtest/gtest.h>

#include <string>
#include <vector>

#include "support/json.hpp"
#include "support/program.hpp"
#include "support/temporary_folder.hpp"

namespace undershelf::test {

class ProgramTest : public ::testing::Test {
  protected:
    Ran run(const std::vector<std::string>& arguments) {
        std::vector<std::string> words;
        words.reserve(arguments.size() + 1);
        words.emplace_back(UNDERSHELF_PROGRAM);
        words.insert(words.end(), arguments.begin(), arguments.end());
        return run_in(folder.path().string(), words);
    }

    TemporaryFolder folder;
};

}  // namespace undershelf::test
