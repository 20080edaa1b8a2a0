// Every call by which a command writes fails once, finds no room, or is its last: afterwards everything
// opens, and the same command ends as one does that nothing disturbed.

#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <algorithm>
#include <cstdlib>
#include <filesystem>
#include <map>
#include <regex>
#include <set>
#include <sstream>

#include "support/asked_device.hpp"
#include "support/program.hpp"
#include "support/shelf_rows.hpp"
#include "support/small_card.hpp"
#include "support/temporary_folder.hpp"

namespace undershelf::test {

namespace {

namespace fs = std::filesystem;

/// A folder as it must be in the end: what every file holds, rows for shelves.
using State = std::map<std::string, std::string>;

struct Job {
    const char* name;
    std::vector<std::vector<std::string>> before;  ///< commands that make what it needs
    std::vector<std::string> command;
};

void PrintTo(const Job& job, std::ostream* out) {
    *out << job.name;
}

const Job jobs[] = {
    {"Scan", {}, {"scan", "card.img", "--reach", "content"}},
    {"Check", {{"scan", "card.img"}}, {"check", "card.shelf"}},
    {"Mark", {{"scan", "card.img"}}, {"mark", "card.shelf", "--all"}},
    {"Capture", {}, {"capture", "card.img", "copy.img", "--hash"}},
    {"CaptureParts", {}, {"capture", "card.img", "copy.img", "--split", "1M"}},
    {"Export", {{"scan", "card.img"}}, {"export", "card.shelf", "--to", "out", "--all"}},
    {"ExportRound",
     {{"scan", "card.img"}, {"export", "card.shelf", "--to", "out", "--origin", "live"}},
     {"export", "card.shelf", "--to", "out", "--all"}},
};

/// So many calls of each job are tried, spread over all; with UNDERSHELF_ALL_FAULTS in the environment, every
/// one.
constexpr long tried = 24;

class Faults : public ::testing::TestWithParam<std::tuple<Job, const char*>> {
  protected:
    void SetUp() override {
#ifdef UNDERSHELF_SANITIZED
        GTEST_SKIP() << "sanitizers come before everything else themselves";
#endif
        image_ = small_card().bytes();
    }

    Ran run(const std::vector<std::string>& arguments, const std::string& faults = {}) {
        std::string line = faults.empty() ? "" : "LD_PRELOAD=" UNDERSHELF_FAULTY_CALLS " " + faults + " ";
        line += UNDERSHELF_PROGRAM;
        for (const auto& a : arguments) line += " " + a;
        return run_in(folder_.path().string(), {"sh", "-c", line});
    }
    void begin() {
        for (const auto& old : fs::directory_iterator(folder_.path())) fs::remove_all(old.path());
        folder_.write("card.img", image_);
        for (const auto& command : std::get<0>(GetParam()).before) ASSERT_LE(run(command).status, 1);
    }
    State state() {
        State out;
        for (const auto& file : fs::recursive_directory_iterator(folder_.path())) {
            if (!file.is_regular_file()) continue;
            const auto name = file.path().lexically_relative(folder_.path()).string();
            if (name.ends_with(".shelf")) {
                // What was exported may have been noted twice.
                std::set<std::string> rows;
                for (const auto& row : shelf_rows(file.path().string(), {"exported.job"})) rows.insert(row);
                for (const auto& row : rows) out[name] += row + "\n";
            } else if (name.ends_with("bag-info.txt")) {
                out[name] =
                    std::regex_replace(read_file(file.path().string()), std::regex("Undershelf-.*\n"), "");
            } else if (name.ends_with(".jsonl") || name.ends_with("sha256.txt")) {
                // What failed at first is done in another round.
                out[name] = sorted_lines(
                    std::regex_replace(read_file(file.path().string()), std::regex("\"round\":[0-9]+,"), ""));
            } else {
                out[name] = read_file(file.path().string());
            }
        }
        // Its checksums are those of files whose lines may be in another order.
        out.erase("out/tagmanifest-sha256.txt");
        out.erase("count");
        return out;
    }
    static std::string sorted_lines(const std::string& text) {
        std::istringstream in(text);
        std::vector<std::string> lines;
        for (std::string line; std::getline(in, line);) lines.push_back(line);
        std::sort(lines.begin(), lines.end());
        std::string out;
        for (const auto& line : lines) out += line + "\n";
        return out;
    }
    /// Names of what differs.
    static std::string difference(const State& a, const State& b) {
        std::string out;
        for (const auto& [name, content] : a) {
            const auto it = b.find(name);
            if (it == b.end()) out += name + " is missing; ";
            if (it != b.end() && it->second != content) out += name + " differs; ";
        }
        for (const auto& [name, content] : b) out += a.count(name) ? "" : name + " is left over; ";
        return out;
    }

    ByteVector image_;
    TemporaryFolder folder_;
};

}  // namespace

TEST_P(Faults, NothingIsStuckAndNothingLost) {
    const auto& [job, how] = GetParam();
    const auto& command = job.command;
    begin();
    const auto whole = run(command, "FAULT_COUNT=count");
    ASSERT_LE(whole.status, 1) << whole.err;
    const auto calls = std::atol(read_file(folder_.at("count")).c_str());
    ASSERT_GT(calls, 0);
    const auto expected = state();
    const long step = std::getenv("UNDERSHELF_ALL_FAULTS") ? 1 : std::max(1l, calls / tried);
    for (long n = 1; n <= calls; n += n < 8 ? 1 : step) {
        SCOPED_TRACE(std::string(how) + " at call " + std::to_string(n) + " of " + std::to_string(calls));
        begin();
        const auto faulty = run(command, std::string("FAULT_HOW=") + how + " FAULT_AT=" + std::to_string(n));
        if (std::string_view(how) != "kill") {
            ASSERT_GE(faulty.status, 0) << faulty.err;
            ASSERT_LT(faulty.status, 128) << faulty.err;
        }
        const auto again = run(command);
        EXPECT_EQ(again.status, whole.status) << faulty.err << again.err;
        EXPECT_EQ(difference(expected, state()), "") << faulty.err << again.err;
        if (HasFailure()) return;
    }
}

INSTANTIATE_TEST_SUITE_P(EveryCall, Faults,
                         ::testing::Combine(::testing::ValuesIn(jobs),
                                            ::testing::Values("fail", "full", "kill")),
                         [](const auto& test) {
                             return std::string(std::get<0>(test.param).name) + "_" + std::get<1>(test.param);
                         });

}  // namespace undershelf::test
