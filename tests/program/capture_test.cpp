// Copying failing drives: the built program against simulated ones.

#include <gmock/gmock.h>
#include <gtest/gtest.h>
#include <sched.h>
#include <sys/stat.h>
#include <sys/wait.h>
#include <unistd.h>

#include <csignal>
#include <fstream>
#include <nlohmann/json.hpp>
#include <random>
#include <sstream>

#include "base/sha256.hpp"
#include "source/coverage_file.hpp"
#include "support/asked_device.hpp"
#include "support/fat_image.hpp"
#include "support/needs.hpp"
#include "support/program_test.hpp"

namespace undershelf::test {

namespace {

using nlohmann::json;
using ::testing::AllOf;
using ::testing::HasSubstr;
using ::testing::Not;
using State = CoverageState;

constexpr std::size_t size = 16 << 20;

class Capture : public ProgramTest {
  protected:
    Ran shell(const std::string& command) { return run_in(folder.path().string(), {"sh", "-c", command}); }

    /// A drive of random bytes, with zeros in the middle.
    void make_drive(std::size_t bytes = size) {
        auto content = random_bytes(bytes);
        std::fill_n(content.begin() + static_cast<std::ptrdiff_t>(bytes / 2), bytes / 4, std::uint8_t{0});
        folder.write("drive.img", content);
    }
    void make_simulation(const std::vector<SimulatedPlace>& places, const std::string& more = {}) {
        std::string text = "offset,length,behaviour\n" + more;
        for (const auto& p : places)
            text += std::to_string(p.range.offset) + "," + std::to_string(p.range.length) + ",fail\n";
        folder.write("drive.csv", text);
    }
    CoverageRecord coverage(const std::string& image = "copy.img") {
        return read_coverage_file(folder.at(image + ".coverage.csv"));
    }
    /// Starts a capture and returns once the image holds so many bytes, or the capture has ended.
    pid_t start(const std::vector<std::string>& more, std::uint64_t until,
                const std::string& image = "copy.img") {
        std::vector<std::string> words{UNDERSHELF_PROGRAM, "capture", "drive.img", image};
        words.insert(words.end(), more.begin(), more.end());
        const auto child = ::fork();
        if (child == 0) {
            if (::chdir(folder.path().c_str()) != 0) ::_exit(126);
            std::vector<char*> arguments;
            for (const auto& w : words) arguments.push_back(const_cast<char*>(w.c_str()));
            arguments.push_back(nullptr);
            if (!std::freopen("/dev/null", "w", stdout) || !std::freopen("/dev/null", "w", stderr))
                ::_exit(126);
            ::execv(UNDERSHELF_PROGRAM, arguments.data());
            ::_exit(127);
        }
        struct stat s {};
        while (::stat(folder.at(image).c_str(), &s) != 0 ||
               static_cast<std::uint64_t>(s.st_blocks) * 512 < until) {
            siginfo_t info{};
            if (::waitid(P_PID, static_cast<id_t>(child), &info, WEXITED | WNOHANG | WNOWAIT) == 0 &&
                info.si_pid)
                break;
            ::sched_yield();
        }
        return child;
    }
    int end(pid_t child, int signal) {
        int status = 0;
        ::kill(child, signal);
        ::waitpid(child, &status, 0);
        return WIFEXITED(status) ? WEXITSTATUS(status) : -WTERMSIG(status);
    }
    std::string file(const std::string& name) { return read_file(folder.at(name)); }
};

}  // namespace

TEST_F(Capture, CopiesASoundSource) {
    make_drive();
    const auto ran = run({"capture", "drive.img", "copy.img", "--hash"});
    EXPECT_EQ(ran.status, 0) << ran.err;
    EXPECT_TRUE(file("copy.img") == file("drive.img"));
    EXPECT_THAT(ran.out, AllOf(HasSubstr("100 %"), HasSubstr("next: undershelf scan copy.img")));
    EXPECT_EQ(coverage().coverage.bytes(State::zeros), size / 4);
    EXPECT_EQ(shell("sha256sum -c --strict copy.img.sha256").status, 0);
    Sha256 hash;
    const auto bytes = file("drive.img");
    hash.add({reinterpret_cast<const std::uint8_t*>(bytes.data()), bytes.size()});
    EXPECT_EQ(file("copy.img.blocks.csv"),
              "offset,length,sha256,unreadable\n0,16777216," + hash.hex() + ",0\n");
    // Once more: nothing is left to do.
    EXPECT_EQ(run({"capture", "drive.img", "copy.img", "--reads", "reads.csv"}).status, 0);
    const auto reads = file("reads.csv");
    EXPECT_LT(std::count(reads.begin(), reads.end(), '\n'), 60) << "samples alone are read";
}

TEST_F(Capture, CopiesEverySectorThatReads) {
    make_drive();
    const auto places = failing_places(size, 0.05, true);
    make_simulation(places);
    const auto ran = run({"capture", "drive.img", "copy.img", "--simulate", "drive.csv"});
    EXPECT_EQ(ran.status, 1);
    EXPECT_THAT(ran.out, AllOf(HasSubstr("unreadable"), HasSubstr("asked for sector by sector")));
    EXPECT_THAT(ran.err, HasSubstr("--again"));
    const auto bad = ranges_of(places);
    EXPECT_EQ(coverage().coverage.ranges(State::unreadable), bad.ranges());
    auto expected = file("drive.img");
    for (const auto& r : bad.ranges())
        std::fill_n(expected.begin() + static_cast<std::ptrdiff_t>(r.offset), r.length, '\0');
    EXPECT_TRUE(file("copy.img") == expected);
}

TEST_F(Capture, ComesOutTheSameHoweverOftenItIsKilled) {
    make_drive();
    make_simulation(failing_places(size, 0.02, true));
    EXPECT_EQ(run({"capture", "drive.img", "copy.img", "--simulate", "drive.csv"}).status, 1);
    const auto image = file("copy.img"), covered = file("copy.img.coverage.csv"),
               blocks = file("copy.img.blocks.csv");
    std::mt19937 random(3);
    for (int round = 0; round < 20; ++round) {
        for (const auto* name : {"copy.img", "copy.img.coverage.csv", "copy.img.blocks.csv"})
            std::filesystem::remove(folder.at(name));
        end(start({"--simulate", "drive.csv"}, random() % (size * 3 / 4)), SIGKILL);
        if (round % 2) end(start({"--simulate", "drive.csv"}, random() % (size * 3 / 4)), SIGKILL);
        run({"capture", "drive.img", "copy.img", "--simulate", "drive.csv"});
        ASSERT_TRUE(file("copy.img") == image) << "round " << round;
        ASSERT_EQ(file("copy.img.coverage.csv"), covered) << "round " << round;
        ASSERT_EQ(file("copy.img.blocks.csv"), blocks) << "round " << round;
    }
}

TEST_F(Capture, AnswersCtrlCAndGoesOn) {
    make_drive();
    const auto child = start({"--limit", "4M"}, 1 << 20);
    EXPECT_EQ(end(child, SIGINT), 130);
    const auto before = coverage().coverage;
    EXPECT_GE(before.bytes(State::copied), 1u << 20);
    EXPECT_GT(before.bytes(State::waiting), 0u);
    EXPECT_EQ(run({"capture", "drive.img", "copy.img"}).status, 0);
    EXPECT_TRUE(file("copy.img") == file("drive.img"));
}

TEST_F(Capture, RefusesWhatWouldLoseSomething) {
    make_drive();
    folder.write("taken.img", std::string("somebody's"));
    const auto taken = run({"capture", "drive.img", "taken.img"});
    EXPECT_EQ(taken.status, 4);
    EXPECT_THAT(taken.err, HasSubstr("is there already"));
    EXPECT_EQ(file("taken.img"), "somebody's");
    EXPECT_EQ(run({"capture", "drive.img", "drive.img"}).status, 4);
    EXPECT_EQ(run({"capture", "drive.img", "nowhere/copy.img"}).status, 1);
    ASSERT_EQ(run({"capture", "drive.img", "copy.img"}).status, 0);
    // Another source of the same size, and one of another size.
    folder.write("other.img", random_bytes(size, 99));
    const auto other = run({"capture", "other.img", "copy.img"});
    EXPECT_EQ(other.status, 4);
    EXPECT_THAT(other.err, HasSubstr("a copy of another source"));
    folder.write("short.img", random_bytes(size - 512));
    EXPECT_THAT(run({"capture", "short.img", "copy.img"}).err, HasSubstr("that one has 16777216 bytes"));
    EXPECT_TRUE(file("copy.img") == file("drive.img"));
}

TEST_F(Capture, SaysWhatIsWrongWithACoverageFile) {
    make_drive();
    ASSERT_EQ(run({"capture", "drive.img", "copy.img"}).status, 0);
    const auto good = file("copy.img.coverage.csv");
    folder.write("copy.img.coverage.csv", good + "0,512,copied\n");
    const auto lies = run({"capture", "drive.img", "copy.img"});
    EXPECT_EQ(lies.status, 3);
    EXPECT_THAT(lies.err, HasSubstr("overlaps"));
    EXPECT_EQ(run({"scan", "copy.img"}).status, 3);
    // Half written: what it does not speak of is copied anew.
    folder.write("copy.img.coverage.csv", good.substr(0, good.rfind('\n', good.size() - 2) + 1));
    EXPECT_EQ(run({"capture", "drive.img", "copy.img"}).status, 0);
    EXPECT_EQ(file("copy.img.coverage.csv"), good);
    // The image has lost its end.
    std::filesystem::resize_file(folder.at("copy.img"), size / 3);
    const auto cut = run({"capture", "drive.img", "copy.img"});
    EXPECT_EQ(cut.status, 1);
    EXPECT_THAT(cut.err, HasSubstr("was shorter than its coverage tells"));
    EXPECT_TRUE(file("copy.img") == file("drive.img"));
    std::filesystem::remove(folder.at("copy.img"));
    EXPECT_THAT(run({"capture", "drive.img", "copy.img"}).err,
                HasSubstr("is about an image that is not there"));
}

TEST_F(Capture, KeepsEverythingWhenTheDriveDies) {
    make_drive();
    make_simulation({}, "0,0,die after 9 reads\n");
    const auto ran = run({"capture", "drive.img", "copy.img", "--simulate", "drive.csv"});
    EXPECT_EQ(ran.status, 1);
    EXPECT_THAT(ran.err, HasSubstr("stopped answering"));
    EXPECT_THAT(ran.out, HasSubstr("waiting"));
    EXPECT_EQ(coverage().coverage.bytes(State::unreadable), 0u);
    EXPECT_EQ(run({"capture", "drive.img", "copy.img"}).status, 0);
    EXPECT_TRUE(file("copy.img") == file("drive.img"));
}

TEST_F(Capture, KeepsEverythingWhenTheSourceShrinks) {
    make_drive();
    const auto whole = file("drive.img");
    const auto child = start({"--limit", "4M"}, 1 << 20);
    std::filesystem::resize_file(folder.at("drive.img"), 9 << 20);
    int status = 0;
    ::waitpid(child, &status, 0);
    EXPECT_EQ(WEXITSTATUS(status), 1);
    EXPECT_EQ(coverage().coverage.bytes(State::unreadable), 0u);
    EXPECT_GE(coverage().coverage.bytes(State::copied), 1u << 20);
    const auto again = run({"capture", "drive.img", "copy.img"});
    EXPECT_EQ(again.status, 4);
    EXPECT_THAT(again.err, HasSubstr("that one has 16777216 bytes, and this one 9437184"));
    folder.write("drive.img", whole);
    EXPECT_EQ(run({"capture", "drive.img", "copy.img"}).status, 0);
    EXPECT_TRUE(file("copy.img") == whole);
}

TEST_F(Capture, SaysThatTheSourceHasGrown) {
    make_drive();
    const auto child = start({"--limit", "16M"}, 1 << 20);
    std::filesystem::resize_file(folder.at("drive.img"), size + 4096);
    int status = 0;
    ::waitpid(child, &status, 0);
    EXPECT_EQ(WEXITSTATUS(status), 1);
    EXPECT_EQ(coverage().coverage.bytes(State::waiting), 0u);
}

TEST_F(Capture, KeepsEverythingWhenTheDestinationIsFull) {
    make_drive();
    const auto made = shell("mkdir small && mount -t tmpfs -o size=24m none small");
    UNDERSHELF_NEEDS(made.status == 0, "mounting a small file system", made.err);
    const auto child = start({"--limit", "8M", "--coverage", "coverage.csv"}, 2 << 20, "small/copy.img");
    shell("head -c 24m /dev/zero > small/somebody.else");
    int status = 0;
    ::waitpid(child, &status, 0);
    EXPECT_EQ(WEXITSTATUS(status), 1);
    std::filesystem::remove(folder.at("small/somebody.else"));
    const auto again = run({"capture", "drive.img", "small/copy.img", "--coverage", "coverage.csv"});
    const bool same = file("small/copy.img") == file("drive.img");
    const auto large = run({"capture", "drive.img", "small/other.img"});
    shell("umount small");
    EXPECT_EQ(again.status, 0) << again.err;
    EXPECT_TRUE(same);
    EXPECT_EQ(large.status, 4);
    EXPECT_THAT(large.err, HasSubstr("bytes free"));
}

TEST_F(Capture, WritesPartsThatAreASource) {
    FatImage card({.clusters = 5000});
    card.put(0, "POSTER  TXT", u"", {10}, "The Tin Prince");
    folder.write("card.img", card.bytes());
    const auto ran = run({"capture", "card.img", "copy.img", "--split", "1M"});
    EXPECT_EQ(ran.status, 0) << ran.err;
    EXPECT_THAT(ran.out, HasSubstr("copy.img.001 to copy.img.003"));
    EXPECT_EQ(run({"scan", "copy.img.001", "--shelf", "card.shelf"}).status, 0);
    EXPECT_THAT(run({"list", "card.shelf"}).out, HasSubstr("POSTER.TXT"));
    EXPECT_EQ(run({"capture", "card.img", "copy.img", "--split", "2M"}).status, 2);
    EXPECT_EQ(run({"capture", "card.img", "copy.img"}).status, 0);
}

TEST_F(Capture, SaysWhatMakesNoSense) {
    make_drive();
    for (const auto& words :
         std::vector<std::vector<std::string>>{{"--range", "5"},
                                               {"--range", "16777216,512"},
                                               {"--again", "x"},
                                               {"--split", "1000"},
                                               {"--name", "*.jpg"},
                                               {"--from", "a.shelf", "--range", "0,512"}}) {
        std::vector<std::string> all{"capture", "drive.img", "copy.img"};
        all.insert(all.end(), words.begin(), words.end());
        const auto ran = run(all);
        EXPECT_EQ(ran.status, 2) << words[0] << ": " << ran.err;
        EXPECT_FALSE(std::filesystem::exists(folder.at("copy.img"))) << words[0];
    }
}

TEST_F(Capture, ADriveIsCapturedAsAFileIs) {
    make_drive();
    const auto made = shell("losetup -r -f --show drive.img");
    UNDERSHELF_NEEDS(made.status == 0, "a loop device", made.err);
    const auto device = made.out.substr(0, made.out.find('\n'));
    const auto ran = run({"capture", device, "copy.img"});
    const auto inspected = run({"inspect", device});
    shell("losetup -d " + device);
    EXPECT_EQ(ran.status, 0) << ran.err;
    EXPECT_TRUE(file("copy.img") == file("drive.img"));
    EXPECT_THAT(inspected.out, HasSubstr("discards"));
}

}  // namespace undershelf::test
