#include "writing/folder.hpp"

#include <fcntl.h>
#include <gmock/gmock.h>
#include <gtest/gtest.h>
#include <unistd.h>

#include <cerrno>
#include <filesystem>
#include <system_error>

#include "base/error.hpp"
#include "support/temporary_folder.hpp"
#include "writing/output_file.hpp"

namespace undershelf {

namespace {

namespace fs = std::filesystem;

int error_of(const std::function<void()>& call) {
    try {
        call();
        return 0;
    } catch (const std::system_error& e) {
        return e.code().value();
    }
}

class Beneathness : public ::testing::TestWithParam<Beneath> {
  protected:
    int open(const std::string& relative, int flags = O_RDONLY) {
        const FileDescriptor folder(::open(bag.c_str(), O_RDONLY | O_DIRECTORY));
        return open_beneath(folder.get(), relative, flags, 0600, true, GetParam()) ? 0 : errno;
    }
    test::TemporaryFolder root;
    std::string bag = root.at("bag"), outside = root.at("outside");

    void SetUp() override {
        fs::create_directories(bag + "/data/live");
        fs::create_directories(outside);
        root.write("outside/letter.txt", "mine");
        root.write("bag/data/live/cue.txt", "cue");
    }
};

}  // namespace

TEST_P(Beneathness, OpensWhatIsBelow) {
    EXPECT_EQ(open("data/live/cue.txt"), 0);
    EXPECT_EQ(open("data/live", O_RDONLY | O_DIRECTORY), 0);
    EXPECT_EQ(open("data/live/new.txt", O_WRONLY | O_CREAT | O_EXCL), 0);
    EXPECT_EQ(open("data/live/new.txt", O_WRONLY | O_CREAT | O_EXCL), EEXIST);
    EXPECT_EQ(open("data/none/new.txt"), ENOENT);
}

TEST_P(Beneathness, FollowsNoLink) {
    fs::create_directory_symlink(outside, bag + "/data/away");
    fs::create_symlink(outside + "/letter.txt", bag + "/data/letter");
    fs::create_directory_symlink("live", bag + "/data/inside");
    EXPECT_EQ(open("data/away/letter.txt"), ELOOP);
    EXPECT_EQ(open("data/away/new.txt", O_WRONLY | O_CREAT), ELOOP);
    EXPECT_EQ(open("data/letter"), ELOOP);
    EXPECT_EQ(open("data/letter", O_PATH), ELOOP);
    EXPECT_EQ(open("data/letter", O_WRONLY | O_TRUNC), ELOOP);
    EXPECT_EQ(open("data/inside/cue.txt"), ELOOP) << "not even within";
    EXPECT_EQ(test::read_file(outside + "/letter.txt"), "mine");
}

TEST_P(Beneathness, NeverLeaves) {
    for (const std::string path : {"../outside/letter.txt", "data/../../outside/letter.txt", "/etc/hostname",
                                   "", ".", "..", "data//live", "data/./live", "data/live/"})
        EXPECT_EQ(open(path), EINVAL) << path;
}

INSTANTIATE_TEST_SUITE_P(BothWays, Beneathness, ::testing::Values(Beneath::at_once, Beneath::by_steps),
                         [](const auto& test) {
                             return test.param == Beneath::at_once ? "AtOnce" : "BySteps";
                         });

TEST(Folder, MakesFoldersAndRefusesLinksInTheirPlace) {
    const test::TemporaryFolder root;
    const Folder bag(SourceGuard::no_source(), root.at("new/bag"));
    bag.make_folders("data/live/Act 1");
    bag.make_folders("data/live/Act 1");
    EXPECT_TRUE(fs::is_directory(root.at("new/bag/data/live/Act 1")));
    fs::create_directory_symlink(root.path(), root.at("new/bag/data/away"));
    EXPECT_EQ(error_of([&] { bag.make_folders("data/away/Act 2"); }), ELOOP);
    root.write("new/bag/data/file", "x");
    EXPECT_EQ(error_of([&] { bag.make_folders("data/file/Act 2"); }), ENOTDIR);
}

TEST(Folder, RenamesAndRemovesBelowAlone) {
    const test::TemporaryFolder root;
    fs::create_directories(root.at("victim"));
    const auto victim = root.write("victim/letter.txt", "mine");
    const Folder bag(SourceGuard::no_source(), root.at("bag"));
    bag.make_folders("parts/1");
    root.write("bag/parts/1/a.part", "a");
    root.write("bag/taken", "t");
    EXPECT_EQ(error_of([&] { bag.rename_without_replacing("parts/1/a.part", "taken"); }), EEXIST);
    EXPECT_EQ(error_of([&] { bag.rename_without_replacing("parts/1/a.part", "../escaped"); }), EINVAL);
    bag.rename_without_replacing("parts/1/a.part", "free");
    EXPECT_EQ(test::read_file(root.at("bag/free")), "a");
    fs::create_directory_symlink(root.at("victim"), root.at("bag/parts/away"));
    bag.remove_all("parts");
    EXPECT_FALSE(fs::exists(root.at("bag/parts")));
    EXPECT_EQ(test::read_file(victim), "mine");
}

TEST(Folder, TellsWhatIsThere) {
    const test::TemporaryFolder root;
    const Folder bag(SourceGuard::no_source(), root.at("bag"));
    EXPECT_TRUE(bag.empty());
    root.write("bag/a", "a");
    fs::create_symlink("a", root.at("bag/link"));
    EXPECT_FALSE(bag.empty());
    EXPECT_TRUE(bag.is_file("a"));
    EXPECT_FALSE(bag.is_file("link"));
    EXPECT_FALSE(bag.is_file("none"));
    EXPECT_FALSE(bag.is_file("a/b"));
    std::vector<std::string> names;
    bag.each("", [&](const std::string& name, const struct stat&) { return names.push_back(name), true; });
    EXPECT_THAT(names, ::testing::UnorderedElementsAre("a", "link"));
}

TEST(Folder, OnTheSourceIsNotMade) {
    const test::TemporaryFolder root;
    const SourceGuard guard(root.write("card.img", "bytes"));
    EXPECT_THROW(Folder(guard, root.at("card.img")), Error);
}

TEST(OutputFile, IsNotWrittenThroughWhatIsThere) {
    const test::TemporaryFolder root;
    const auto victim = root.write("letter.txt", "mine");
    const Folder bag(SourceGuard::no_source(), root.at("bag"));
    fs::create_hard_link(victim, root.at("bag/1.part"));
    const std::uint8_t bytes[] = {'o', 'k'};
    {
        OutputFile file(bag, "1.part");
        file.write(bytes);
        file.publish("cue.txt");
    }
    fs::create_symlink(victim, root.at("bag/2.part"));
    { OutputFile(bag, "2.part").write(bytes); }
    EXPECT_EQ(test::read_file(victim), "mine");
    EXPECT_EQ(test::read_file(root.at("bag/cue.txt")), "ok");
    EXPECT_FALSE(fs::exists(root.at("bag/2.part"))) << "taken away unless published";
}

}  // namespace undershelf
