#include "writing/source_guard.hpp"

#include <fmt/format.h>
#include <gtest/gtest.h>
#include <sys/stat.h>
#include <sys/sysmacros.h>

#include "base/error.hpp"
#include "support/temporary_folder.hpp"

namespace undershelf {

namespace {

namespace fs = std::filesystem;

bool refused(const std::string& source, const std::string& destination, const SystemPlaces& places = {}) {
    try {
        SourceGuard(source, places).refuse(destination);
        return false;
    } catch (const Error& e) {
        EXPECT_EQ(e.trouble(), Trouble::refused);
        return true;
    }
}

std::string number_of_file_system(const std::string& path) {
    struct stat s {};
    EXPECT_EQ(::stat(path.c_str(), &s), 0);
    return fmt::format("{}:{}", major(s.st_dev), minor(s.st_dev));
}

/// A made-up system: devices by their numbers, and a table of what is mounted.
class System : public ::testing::Test {
  protected:
    void SetUp() override {
        fs::create_directories(folder.at("sys/dev/block"));
        fs::create_directories(folder.at("mount point/inner"));
        places.sys = folder.at("sys");
        places.mount_table = folder.at("mountinfo");
        mounts("");
    }
    /// A device's folder, with its number, and a link to it by that number.
    std::string device(const std::string& path, const std::string& number) {
        const auto node = folder.at("sys/devices/" + path);
        fs::create_directories(node);
        file(path + "/dev", number);
        fs::create_directory_symlink(node, folder.at("sys/dev/block/" + number));
        return node;
    }
    void file(const std::string& path, const std::string& line) {
        const auto where = "sys/devices/" + path;
        fs::create_directories(fs::path(folder.at(where)).parent_path());
        folder.write(where, line + "\n");
    }
    void loop_over(const std::string& name, const std::string& number, const std::string& image,
                   std::uint64_t offset = 0, std::uint64_t limit = 0) {
        device(name, number);
        file(name + "/loop/backing_file", image);
        file(name + "/loop/offset", std::to_string(offset));
        file(name + "/loop/sizelimit", std::to_string(limit));
    }
    static std::string mount_line(const std::string& number, const std::string& point,
                                  const std::string& from, const std::string& type = "vfat",
                                  const std::string& options = "rw") {
        return fmt::format("36 35 {} / {} rw,noatime shared:1 - {} {} {}\n", number, point, type, from,
                           options);
    }
    void mounts(const std::string& lines) { folder.write("mountinfo", lines); }
    std::string at_point(const std::string& name = "out") { return folder.at("mount point/" + name); }
    std::string escaped_point() { return folder.at("mount\\040point"); }

    test::TemporaryFolder folder;
    SystemPlaces places;
    std::string source = folder.write("card.img", "bytes"), other = folder.write("other.img", "bytes");
};

}  // namespace

TEST(SourceGuard, KnowsTheSourceByAnyName) {
    const test::TemporaryFolder folder;
    const auto source = folder.write("card.img", "bytes");
    fs::create_symlink(source, folder.at("soft"));
    fs::create_symlink("soft", folder.at("softer"));
    fs::create_hard_link(source, folder.at("hard"));
    EXPECT_TRUE(refused(source, source));
    EXPECT_TRUE(refused(source, folder.at("softer")));
    EXPECT_TRUE(refused(source, folder.at("hard")));
    EXPECT_TRUE(refused(source, folder.at("./card.img")));
    EXPECT_FALSE(refused(source, folder.at("other.img")));
    EXPECT_FALSE(refused(source, folder.at("new/folder")));
    EXPECT_FALSE(refused(folder.at("not there"), folder.at("other.img")));
}

TEST(SourceGuard, GuardsEveryPartOfASplitImage) {
    const test::TemporaryFolder folder;
    const auto first = folder.write("card.001", "bytes"), second = folder.write("card.002", "more");
    EXPECT_TRUE(refused(first, second));
    EXPECT_FALSE(refused(first, folder.at("card.003")));
}

TEST_F(System, KnowsFileSystemsMountedFromTheSource) {
    const auto elsewhere = mount_line("0:99", "/", "none");
    mounts(elsewhere + mount_line("0:98", escaped_point(), source));
    EXPECT_TRUE(refused(source, at_point("inner/out"), places));
    EXPECT_TRUE(refused(source, at_point(""), places));
    EXPECT_FALSE(refused(source, folder.at("mount pointer"), places));
    EXPECT_FALSE(refused(other, at_point(), places));
    // Another file system mounted over it later is what counts.
    mounts(mount_line("0:98", escaped_point(), source) + mount_line("0:97", escaped_point(), other));
    EXPECT_FALSE(refused(source, at_point(), places));
}

TEST_F(System, FollowsLoopDevicesOverFilesOnLoopDevices) {
    loop_over("loop1", "7:91", source);
    const auto inner = folder.write("inner.img", "bytes");
    loop_over("loop2", "7:92", inner);
    mounts(mount_line("7:91", folder.path().string(), "/dev/loop1") +
           mount_line("7:92", escaped_point(), "/dev/loop2"));
    // On a loop device over a file that is on a file system on a loop device over the source.
    EXPECT_TRUE(refused(source, at_point(), places));
    EXPECT_FALSE(refused(other, folder.at("elsewhere"), places) && refused(other, at_point(), places));
}

TEST_F(System, TellsPartitionsOfOneDiskApart) {
    device("disk", "8:0");
    for (const auto& [number, start] : {std::pair{"8:1", "2048"}, {"8:2", "4096"}}) {
        const auto name = std::string("disk/part") + number[2];
        device(name, number);
        file(name + "/partition", "1");
        file(name + "/start", start);
        file(name + "/size", "2048");
    }
    // The second one is a loop device's file's range: bytes 0 to 1 MiB of the image are its first partition.
    loop_over("loop3", "7:93", source, 1 << 20, 1 << 20);
    loop_over("loop4", "7:94", source, 2 << 20, 1 << 20);
    mounts(mount_line("7:93", escaped_point(), "/dev/loop3"));
    EXPECT_TRUE(refused(source, at_point(), places));
    const auto as_disk = storage_written(at_point(), places);
    EXPECT_FALSE(as_disk.below.empty());
    // What is written through the one is not read through the other.
    const std::vector<Storage> first{{true, makedev(8, 0), 0, {2048 * 512, 2048 * 512}}},
        second{{true, makedev(8, 0), 0, {4096 * 512, 2048 * 512}}},
        all{{true, makedev(8, 0), 0, {0, 1 << 30}}};
    EXPECT_FALSE(meet(first, second));
    EXPECT_TRUE(meet(first, all));
    mounts(mount_line("8:1", escaped_point(), "/dev/none"));
    EXPECT_TRUE(meet(storage_written(at_point(), places).below, first));
    EXPECT_TRUE(meet(storage_written(at_point(), places).below, all));
    EXPECT_FALSE(meet(storage_written(at_point(), places).below, second));
}

TEST_F(System, GoesThroughWhatDeviceMapperPutsTogether) {
    device("sdz", "8:400");
    device("dm-9", "254:99");
    file("dm-9/slaves/sdz/dev", "8:400");
    mounts(mount_line("254:99", escaped_point(), "/dev/none"));
    const std::vector<Storage> disk{{true, makedev(8, 400), 0, {0, 512}}};
    EXPECT_TRUE(meet(storage_written(at_point(), places).below, disk));
}

TEST_F(System, GoesThroughOverlays) {
    const auto upper = folder.at("upper");
    fs::create_directories(upper);
    mounts(mount_line("7:99", upper, source) +
           mount_line("0:98", escaped_point(), "overlay", "overlay", "rw,lowerdir=/x,upperdir=" + upper));
    EXPECT_TRUE(refused(source, at_point(), places));
    EXPECT_FALSE(refused(other, at_point(), places));
}

TEST_F(System, AFileMadeByFuseIsMadeFromSomething) {
    const auto shown = folder.write("mount point/shown.img", "bytes");
    mounts(mount_line("0:98", escaped_point(), source, "fuse.shower"));
    EXPECT_TRUE(refused(shown, source, places)) << "what it is made from";
    EXPECT_FALSE(refused(shown, folder.at("elsewhere"), places));
    // A FUSE file system of a drive: other files may be written beside the image.
    EXPECT_FALSE(refused(shown, at_point("other"), places));
}

TEST_F(System, LinksThatLeadNowhereYetAreFollowed) {
    mounts(mount_line("0:98", escaped_point(), source));
    fs::create_symlink(at_point("not there yet"), folder.at("link"));
    EXPECT_TRUE(refused(source, folder.at("link"), places));
    EXPECT_EQ(number_of_file_system(folder.path().string()).empty(), false);
    // Links in a ring end somewhere.
    fs::create_symlink(folder.at("b"), folder.at("a"));
    fs::create_symlink(folder.at("a"), folder.at("b"));
    EXPECT_FALSE(refused(source, folder.at("a"), places));
}

}  // namespace undershelf
