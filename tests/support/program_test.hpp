#pragma once
// A folder of its own, and the built program in it.

#include <gtest/gtest.h>

#include <nlohmann/json.hpp>
#include <sstream>
#include <string>
#include <vector>

#include "support/program.hpp"
#include "support/temporary_folder.hpp"

namespace undershelf::test {

class ProgramTest : public ::testing::Test {
  protected:
    Ran run(std::vector<std::string> arguments) {
        arguments.insert(arguments.begin(), UNDERSHELF_PROGRAM);
        return run_in(folder.path().string(), arguments);
    }
    /// Objects of JSON, a line each.
    static std::vector<nlohmann::json> lines_of(const std::string& text) {
        std::vector<nlohmann::json> out;
        std::istringstream in(text);
        for (std::string line; std::getline(in, line);) out.push_back(nlohmann::json::parse(line));
        return out;
    }

    TemporaryFolder folder;
};

}  // namespace undershelf::test
