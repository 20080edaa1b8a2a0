// Volumes written by the drivers that everybody has are listed as these drivers list them.

#include <gtest/gtest.h>

#include <filesystem>
#include <fstream>

#include "support/fat_image.hpp"
#include "support/needs.hpp"
#include "support/program_test.hpp"

namespace undershelf::test {

namespace {

namespace fs = std::filesystem;

/// How a file system is made on a device, and mounted from it.
struct Driver {
    const char *name, *make, *mount;
};
void PrintTo(const Driver& driver, std::ostream* out) {
    *out << driver.name;
}

class Drivers : public ProgramTest, public ::testing::WithParamInterface<Driver> {
  protected:
    Ran shell(const std::string& command) { return run_in(folder.path().string(), {"sh", "-c", command}); }
    void TearDown() override {
        shell("umount m 2>/dev/null; losetup -j disk.img | cut -d: -f1 | xargs -r losetup -d");
    }
    /// Folders, long names, capitals, empty files, files that grew in turns, and what was deleted and written
    /// over since.
    void fill() {
        fs::create_directories(folder.at("m/Scripts/Winter play/Act 1"));
        fs::create_directories(folder.at("m/empty"));
        for (int i = 0; i < 60; ++i) {
            const auto name =
                "m/Scripts/cue sheet " + std::to_string(i) + (i % 3 ? ".txt" : " für die Füchsin, Abend.csv");
            write(name, sample_text(name, static_cast<std::size_t>(i * i * 37)));
        }
        for (int turn = 0; turn < 6; ++turn) {
            for (const char* name : {"m/Scripts/Winter play/fox.wav", "m/Scripts/Winter play/Act 1/owl.wav"})
                write(name, sample_text(name, 30'000), std::ios::app);
        }
        for (int i = 0; i < 60; i += 4)
            fs::remove(folder.at("m/Scripts/cue sheet " + std::to_string(i) + ".txt"));
        write("m/late.bin", sample_text("late", 200'000));
        write("m/NOTHING.TXT", "");
    }
    void write(const std::string& name, const std::string& content, std::ios::openmode more = {}) {
        std::ofstream(folder.at(name), std::ios::binary | more) << content;
    }
};

}  // namespace

TEST_P(Drivers, ListWhatWeList) {
    const auto& driver = GetParam();
    const auto made = shell(std::string("mkdir m && truncate -s 48M disk.img && ") + driver.make +
                            " disk.img >/dev/null && " + driver.mount + " $(losetup -f --show disk.img) m");
    UNDERSHELF_NEEDS(made.status == 0, std::string("mounting ") + driver.name, made.err);
    fill();
    ASSERT_EQ(shell("umount m").status, 0);
    shell("losetup -j disk.img | cut -d: -f1 | xargs -r losetup -d");
    const auto ran =
        shell("python3 " UNDERSHELF_SCRIPTS_DIR "/compare_listing.py " UNDERSHELF_PROGRAM " disk.img");
    EXPECT_EQ(ran.status, 0) << ran.out << ran.err;
    EXPECT_NE(ran.out.find("54 live files by its driver, 54 by us"), std::string::npos) << ran.out;
}

INSTANTIATE_TEST_SUITE_P(All, Drivers,
                         ::testing::Values(Driver{"exfat", "mkfs.exfat", "mount.exfat-fuse"},
                                           Driver{"ntfs", "mkntfs -q -F", "ntfs-3g"}),
                         [](const auto& test) { return std::string(test.param.name); });

}  // namespace undershelf::test
