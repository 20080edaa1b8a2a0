// Nothing is ever written to the source, and nothing finished is ever lost.

#include <fcntl.h>
#include <gmock/gmock.h>
#include <gtest/gtest.h>
#include <sched.h>
#include <sys/resource.h>
#include <sys/wait.h>
#include <unistd.h>

#include <csignal>
#include <sstream>

#include "base/sha256.hpp"
#include "support/fat_image.hpp"
#include "support/needs.hpp"
#include "support/program.hpp"
#include "support/temporary_folder.hpp"

namespace undershelf::test {

namespace {

using ::testing::HasSubstr;

class Safety : public ::testing::Test {
  protected:
    Ran run(std::vector<std::string> arguments) {
        arguments.insert(arguments.begin(), UNDERSHELF_PROGRAM);
        return run_in(folder.path().string(), arguments);
    }
    Ran shell(const std::string& command) { return run_in(folder.path().string(), {"sh", "-c", command}); }

    /// A card with one file of these many bytes and a few small ones.
    void make_card(std::size_t big) {
        FatImage card({.clusters = static_cast<std::uint32_t>(big / 4096 + 1000), .sectors_per_cluster = 8});
        std::vector<fat::Cluster> clusters;
        for (fat::Cluster c = 100; c < 100 + big / 4096; ++c) clusters.push_back(c);
        for (fat::Cluster c = 10; c < 20; ++c)
            card.put(0, "CUE" + std::to_string(c) + "   CSV", u"", {c}, "cue");
        card.put(0, "THUNDER WAV", u"", clusters, sample_text("thunder", big / 4096 * 4096));
        folder.write("card.img", card.bytes());
    }
    TemporaryFolder folder;
};

/// A name of 11 bytes as a short entry has it.
std::string short_name(std::string text) {
    text.resize(11, ' ');
    return text;
}

}  // namespace

TEST_F(Safety, OpensTheSourceForReadingOnly) {
    make_card(200'000);
    UNDERSHELF_NEEDS(shell("strace -V").status == 0, "strace", "");
    const std::vector<std::string> jobs{"inspect card.img",
                                        "inspect card.img --format json",
                                        "scan card.img",
                                        "list card.shelf",
                                        "tree card.shelf",
                                        "summary card.shelf",
                                        "export card.shelf --to out --all"};
    for (const auto& job : jobs) {
        const auto ran = shell(
            "strace -f -e trace=open,openat,openat2,creat,truncate,rename,unlink,unlinkat,ioctl,mmap -o "
            "trace.txt " +
            std::string(UNDERSHELF_PROGRAM) + " " + job);
        ASSERT_LE(ran.status, 1) << job << ran.err;
        std::istringstream lines(read_file(folder.at("trace.txt")));
        int opened = 0;
        for (std::string line; std::getline(lines, line);) {
            if (line.find("card.img") == std::string::npos) continue;
            if (line.find("execve") != std::string::npos) continue;
            ++opened;
            EXPECT_THAT(line, HasSubstr("O_RDONLY")) << job;
            EXPECT_EQ(line.find("O_CREAT"), std::string::npos) << line;
        }
        if (job.find("card.img") != std::string::npos || job.starts_with("export")) {
            EXPECT_GT(opened, 0) << job;
        }
    }
}

TEST_F(Safety, LeavesTheSourceAsItWas) {
    make_card(50'000);
    const auto before = read_file(folder.at("card.img"));
    ASSERT_EQ(::chmod(folder.at("card.img").c_str(), 0444), 0);
    for (const auto& job : std::vector<std::vector<std::string>>{
             {"inspect", "card.img"}, {"scan", "card.img"}, {"export", "card.shelf", "--to", "out", "--all"}})
        EXPECT_LE(run(job).status, 1);
    EXPECT_EQ(read_file(folder.at("card.img")), before);
}

TEST_F(Safety, RefusesDestinationsOnTheSource) {
    make_card(1000);
    run({"scan", "card.img"});
    std::filesystem::create_symlink(folder.at("card.img"), folder.at("link"));
    std::filesystem::create_hard_link(folder.at("card.img"), folder.at("hard"));
    for (const char* to : {"card.img", "link", "hard"}) {
        const auto exported = run({"export", "card.shelf", "--to", to, "--all"});
        EXPECT_EQ(exported.status, 4) << to << exported.err;
        EXPECT_EQ(run({"scan", "card.img", "--shelf", to}).status, 4) << to;
    }
}

TEST_F(Safety, RefusesAPlaceMountedFromTheSource) {
    const auto made =
        shell("truncate -s 8M disk.img && mkfs.ext4 -q disk.img && mkdir m && mount -o loop disk.img m");
    UNDERSHELF_NEEDS(made.status == 0, "mounting a file system", made.err);
    make_card(1000);
    const auto scanned = run({"scan", "disk.img", "--shelf", "m/x.shelf"});
    const auto loop = shell("losetup -j disk.img | cut -d: -f1").out;
    const auto device = run({"scan", loop.substr(0, loop.find('\n')), "--shelf", "m/x.shelf"});
    shell("umount m");
    EXPECT_EQ(scanned.status, 4) << scanned.err;
    EXPECT_THAT(scanned.err, HasSubstr("mounted from the source"));
    EXPECT_EQ(device.status, 4) << device.err;
}

TEST_F(Safety, ReadsABlockDevice) {
    make_card(50'000);
    const auto made = shell("losetup -r -f --show card.img");
    UNDERSHELF_NEEDS(made.status == 0, "a loop device", made.err);
    const auto device = made.out.substr(0, made.out.find('\n'));
    const auto inspected = run({"inspect", device});
    const auto scanned = run({"scan", device, "--shelf", "card.shelf"});
    const auto exported = run({"export", "card.shelf", "--to", "out", "--all"});
    shell("losetup -d " + device);
    EXPECT_EQ(inspected.status, 0) << inspected.err;
    EXPECT_THAT(inspected.out, HasSubstr("This is a drive"));
    EXPECT_EQ(scanned.status, 0) << scanned.err;
    EXPECT_EQ(exported.status, 0) << exported.err;
    EXPECT_EQ(read_file(folder.at("out/data/live/THUNDER.WAV")),
              sample_text("thunder", 50'000 / 4096 * 4096));
}

TEST_F(Safety, FollowsASourceThatMoved) {
    make_card(1000);
    run({"scan", "card.img"});
    std::filesystem::rename(folder.at("card.img"), folder.at("moved.img"));
    const auto lost = run({"export", "card.shelf", "--to", "out", "--all"});
    EXPECT_EQ(lost.status, 3);
    EXPECT_THAT(lost.err, HasSubstr("--source PATH"));
    EXPECT_EQ(run({"export", "card.shelf", "--to", "out", "--all", "--source", "moved.img"}).status, 0);
}

TEST_F(Safety, WantsRoomBeforeTheFirstByte) {
    make_card(3'000'000);
    run({"scan", "card.img"});
    const auto made = shell("mkdir small && mount -t tmpfs -o size=1m none small");
    UNDERSHELF_NEEDS(made.status == 0, "mounting a small file system", made.err);
    const auto result = run({"export", "card.shelf", "--to", "small/out", "--all"});
    const bool there = std::filesystem::exists(folder.at("small/out"));
    shell("umount small");
    EXPECT_EQ(result.status, 4) << result.err;
    EXPECT_THAT(result.err, HasSubstr("bytes free"));
    EXPECT_FALSE(there);
}

TEST_F(Safety, KeepsHostileNamesInside) {
    FatImage card({.clusters = 2000, .sectors_per_cluster = 8});
    const std::u16string names[] = {u"../../escape.txt",
                                    u"/etc/passwd",
                                    u"a\u0001b\u001b[2J.txt",
                                    u"NUL",
                                    u"com1.txt",
                                    u"x:y.txt",
                                    u"same.txt",
                                    u"SAME.txt",
                                    u"F\u00e4den.txt",
                                    u"Fa\u0308den.txt",
                                    std::u16string(250, u'\u64cd') + u".txt"};
    fat::Cluster c = 10;
    for (const auto& name : names)
        card.put(0, short_name("NAME" + std::to_string(c) + "  TXT"), name, {c},
                 "content " + std::to_string(c)),
            ++c;
    card.put(0, "..      TXT", u"", {c}, "dots");
    folder.write("card.img", card.bytes());
    run({"scan", "card.img"});
    const auto result = run({"export", "card.shelf", "--to", "deep/out", "--all"});
    EXPECT_EQ(result.status, 0) << result.err;
    std::size_t files = 0;
    for (const auto& f : std::filesystem::recursive_directory_iterator(folder.at("deep/out/data")))
        files += f.is_regular_file();
    EXPECT_GE(files, std::size(names));
    EXPECT_FALSE(std::filesystem::exists(folder.at("escape.txt")));
    for (const auto& f : std::filesystem::directory_iterator(folder.path())) {
        EXPECT_THAT((std::vector<std::string>{"card.img", "card.shelf", "deep"}),
                    ::testing::Contains(f.path().filename().string()));
    }
    EXPECT_EQ(run_in(folder.at("deep/out"), {"sha256sum", "-c", "--strict", "--quiet", "manifest-sha256.txt"})
                  .status,
              0);
}

TEST_F(Safety, LosesNothingWhenKilled) {
    make_card(48 << 20);
    run({"scan", "card.img"});
    const auto child = ::fork();
    if (child == 0) {
        const int null = ::open("/dev/null", O_RDWR);
        ::dup2(null, 1);
        ::dup2(null, 2);
        if (::chdir(folder.path().c_str()) == 0)
            ::execl(UNDERSHELF_PROGRAM, UNDERSHELF_PROGRAM, "export", "card.shelf", "--to", "out", "--all",
                    nullptr);
        ::_exit(127);
    }
    // Killed while the big file is being written, or, on a very quick machine, just after.
    const auto is_being_written = [&] {
        std::error_code ec;
        for (std::filesystem::recursive_directory_iterator part(folder.at("out/.unfinished"), ec), end;
             !ec && part != end; part.increment(ec)) {
            if (part->path().extension() == ".part" && part->file_size(ec) >= 4096 && !ec) return true;
        }
        return false;
    };
    while (!is_being_written()) {
        if (::waitpid(child, nullptr, WNOHANG) != 0) break;
        ::sched_yield();
    }
    ::kill(child, SIGKILL);
    ::waitpid(child, nullptr, 0);
    const auto big = folder.at("out/data/live/THUNDER.WAV");
    if (std::filesystem::exists(big)) {
        EXPECT_EQ(std::filesystem::file_size(big), 48u << 20);
    }
    const bool cut_off = std::filesystem::exists(folder.at("out/.unfinished/journal.jsonl"));
    const auto again = run({"export", "card.shelf", "--to", "out", "--all"});
    EXPECT_EQ(again.status, 0) << again.err;
    EXPECT_THAT(again.out, HasSubstr(cut_off ? "11 complete" : "nothing to add"));
    EXPECT_FALSE(std::filesystem::exists(folder.at("out/.unfinished")));
    EXPECT_EQ(
        run_in(folder.at("out"), {"sha256sum", "-c", "--strict", "--quiet", "manifest-sha256.txt"}).status,
        0);
    EXPECT_EQ(std::filesystem::file_size(big), 48u << 20);
}

TEST_F(Safety, LosesNothingWhenTheDiskIsFull) {
    make_card(8 << 20);
    run({"scan", "card.img"});
    // A limit on the size of files stands in for a disk that fills up while the big file is written.
    const auto result = shell("ulimit -f 2048; trap '' XFSZ; exec " + std::string(UNDERSHELF_PROGRAM) +
                              " export card.shelf --to out --all");
    EXPECT_EQ(result.status, 1) << result.err;
    EXPECT_THAT(
        result.out,
        HasSubstr("10 complete: every byte was read and none is known lost; 0 partial, 0 skipped, 1 failed"));
    EXPECT_FALSE(std::filesystem::exists(folder.at("out/data/live/THUNDER.WAV")));
    EXPECT_EQ(
        run_in(folder.at("out"), {"sha256sum", "-c", "--strict", "--quiet", "manifest-sha256.txt"}).status,
        0);
}

TEST(Rights, ThatAreMissingAreSaidWithTheCommandThatHelps) {
    UNDERSHELF_NEEDS(::geteuid() == 0, "root, to take another user's place", "");
    const TemporaryFolder folder;
    const auto image = folder.write("card.img", ByteVector(4096));
    std::filesystem::permissions(folder.path(), std::filesystem::perms::owner_all);
    std::filesystem::permissions(image, std::filesystem::perms::owner_all);
    const auto ran = run_in("/", {"setpriv", "--reuid=65534", "--regid=65534", "--clear-groups",
                                  UNDERSHELF_PROGRAM, "inspect", image});
    EXPECT_EQ(ran.status, 3);
    EXPECT_THAT(ran.err, ::testing::HasSubstr("You may not read " + image));
    EXPECT_THAT(ran.err, ::testing::HasSubstr("chmod a+r " + image));
}

}  // namespace undershelf::test
