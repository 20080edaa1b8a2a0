// Every allocation of a command may be the one for which there is no memory: it says so, ends as one that
// failed, and the same command does its work afterwards.

#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <algorithm>
#include <cstdlib>
#include <filesystem>
#include <set>

#include "support/fat_image.hpp"
#include "support/memory_content.hpp"
#include "support/program_test.hpp"

namespace undershelf::test {

namespace {

namespace fs = std::filesystem;

struct Job {
    const char* name;
    std::vector<std::vector<std::string>> before;
    std::vector<std::string> command;
};
void PrintTo(const Job& job, std::ostream* out) {
    *out << job.name;
}

const Job jobs[] = {{"Scan", {}, {"scan", "card.img", "--reach", "content"}},
                    {"Check", {{"scan", "card.img"}}, {"check", "card.shelf"}},
                    {"Export", {{"scan", "card.img"}}, {"export", "card.shelf", "--to", "out", "--all"}}};

/// So many of the first allocations, and so many of the others, spread over all; with UNDERSHELF_ALL_FAULTS
/// in the environment each of the first 500 and 500 of the others.
constexpr long first = 500, tried = 25;

class Allocations : public ProgramTest, public ::testing::WithParamInterface<Job> {
  protected:
    void SetUp() override {
#ifdef UNDERSHELF_SANITIZED
        GTEST_SKIP() << "sanitizers have an operator new of their own";
#endif
        FatImage card({.clusters = 600});
        card.put(0, "CUES    TXT", u"", {10, 11, 12}, sample_text("cues", 1500));
        card.erase(card.put(0, "FOX     TXT", u"", {40, 41}, sample_text("fox", 900)));
        const auto poster = png_file();
        card.erase(card.put(0, "POSTER  PNG", u"", {60, 61}, std::string(poster.begin(), poster.end())));
        image_ = card.bytes();
    }
    void begin() {
        for (const auto& old : fs::directory_iterator(folder.path())) fs::remove_all(old.path());
        folder.write("card.img", image_);
        for (const auto& command : GetParam().before) ASSERT_LE(run(command).status, 1);
    }
    /// On one core, so that allocations come in one order.
    Ran run_failing(const std::string& how) {
        std::string line =
            "LD_PRELOAD=" UNDERSHELF_FAILING_NEW " " + how + " taskset -c 0 " UNDERSHELF_PROGRAM;
        for (const auto& word : GetParam().command) line += " " + word;
        return run_in(folder.path().string(), {"sh", "-c", line});
    }

    ByteVector image_;
};

}  // namespace

TEST_P(Allocations, ThatFailEndTheCommandAndLoseNothing) {
    begin();
    const auto whole = run_failing("NEW_COUNT=count");
    ASSERT_LE(whole.status, 1) << whole.err;
    const auto count = std::atol(read_file(folder.at("count")).c_str());
    ASSERT_GT(count, first);
    const long places = std::getenv("UNDERSHELF_ALL_FAULTS") ? first : tried;
    std::set<long> failing;
    for (long i = 0; i < places; ++i) {
        failing.insert(1 + i * first / places);
        failing.insert(1 + (count - 1) * i / (places - 1));
    }
    for (const auto place : failing) {
        SCOPED_TRACE("allocation " + std::to_string(place) + " of " + std::to_string(count));
        begin();
        const auto failed = run_failing("NEW_FAILS_AT=" + std::to_string(place));
        EXPECT_THAT(failed.status, ::testing::AnyOf(0, 1, 3)) << failed.err;
        EXPECT_TRUE(failed.status == 0 || !failed.err.empty());
        EXPECT_EQ(run(GetParam().command).status, whole.status) << failed.err;
        if (HasFailure()) return;
    }
}

INSTANTIATE_TEST_SUITE_P(All, Allocations, ::testing::ValuesIn(jobs),
                         [](const auto& test) { return std::string(test.param.name); });

}  // namespace undershelf::test
