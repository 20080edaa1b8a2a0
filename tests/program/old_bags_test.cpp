// Bags that earlier versions of the program wrote are checked, gone on with and added to.

#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <filesystem>
#include <map>
#include <nlohmann/json.hpp>

#include "support/formatted_card.hpp"
#include "support/json.hpp"
#include "support/packed_file.hpp"
#include "support/program.hpp"
#include "support/temporary_folder.hpp"

namespace undershelf::test {

namespace {

namespace fs = std::filesystem;
using ::testing::AllOf;
using ::testing::HasSubstr;

/// A version's form of bags: `bag` with the file of the present volume, and `cut`, whose export of all files
/// was killed while the last one got its name; with the shelf that both came from.
class OldBag : public ::testing::TestWithParam<const char*> {
  protected:
    void SetUp() override {
        const auto stored = std::string(UNDERSHELF_BAGS_DIR) + "/" + GetParam();
        fs::copy(stored, folder.path(), fs::copy_options::recursive);
        // The folder of the file that has no name yet: empty folders are not kept with the code.
        const auto last = lines_of(read_file(folder.at("cut/.unfinished/journal.jsonl"))).back();
        fs::create_directories(fs::path(folder.at("cut")) /
                               fs::path(last["path_in_bag"].get<std::string>()).parent_path());
        folder.write("card.shelf", unpacked_file(stored + "/card.shelf.gz"));
        folder.write("card.img", formatted_card().bytes());
    }
    Ran run(std::vector<std::string> arguments) {
        arguments.insert(arguments.begin(), UNDERSHELF_PROGRAM);
        return run_in(folder.path().string(), arguments);
    }
    Ran export_all_to(const char* bag) {
        return run({"export", "card.shelf", "--to", bag, "--all", "--source", "card.img"});
    }
    void expect_all_in(const std::string& bag) {
        const auto verified = run({"verify", bag});
        EXPECT_EQ(verified.status, 0) << verified.out;
        EXPECT_THAT(verified.out, HasSubstr("5 of 5 files as written"));
        EXPECT_EQ(read_file(folder.at(bag + "/data/live/NEW.TXT")), sample_text("new", 400));
        EXPECT_EQ(lines_of(read_file(folder.at(bag + "/exported.jsonl"))).size(), 5u);
    }

    /// Of files what is in them.
    std::map<std::string, std::string> everything_in(const char* bag) {
        std::map<std::string, std::string> out;
        for (const auto& entry : fs::recursive_directory_iterator(folder.at(bag)))
            out[entry.path().string()] = entry.is_regular_file() ? read_file(entry.path().string()) : "";
        return out;
    }

    TemporaryFolder folder;
};

}  // namespace

INSTANTIATE_TEST_SUITE_P(Bags, OldBag, ::testing::Values("early", "one-round", "rounds"));

TEST_P(OldBag, IsCheckedAndAddedTo) {
    const auto verified = run({"verify", "bag"});
    EXPECT_EQ(verified.status, 0) << verified.out;
    EXPECT_THAT(verified.out, HasSubstr("1 of 1 file as written"));
    const auto before = read_file(folder.at("bag/data/live/NEW.TXT"));
    const auto added = export_all_to("bag");
    EXPECT_EQ(added.status, 0) << added.err;
    EXPECT_THAT(added.out, HasSubstr("exported 4 files"));
    EXPECT_EQ(read_file(folder.at("bag/data/live/NEW.TXT")), before);
    expect_all_in("bag");
    EXPECT_THAT(export_all_to("bag").out, HasSubstr("nothing to add: 5 selected files"));
}

TEST_P(OldBag, ThatWasChangedIsSaidToBe) {
    auto bytes = read_file(folder.at("bag/data/live/NEW.TXT"));
    bytes[7] ^= 1;
    folder.write("bag/data/live/NEW.TXT", bytes);
    const auto verified = run({"verify", "bag"});
    EXPECT_EQ(verified.status, 1);
    EXPECT_THAT(verified.out, AllOf(HasSubstr("NEW.TXT"), HasSubstr("1 changed")));
}

TEST_P(OldBag, ThatWasCutOffIsGoneOnWith) {
    const auto verified = run({"verify", "cut"});
    EXPECT_EQ(verified.status, 1);
    EXPECT_THAT(verified.out, AllOf(HasSubstr("no round is finished yet"), HasSubstr("undershelf export")));
    const auto done = export_all_to("cut");
    EXPECT_EQ(done.status, 0) << done.err;
    EXPECT_THAT(done.out, HasSubstr("5 of them had been exported before the interruption"));
    EXPECT_FALSE(fs::exists(folder.at("cut/.unfinished")));
    expect_all_in("cut");
}

TEST_P(OldBag, ThatWasCutOffStaysAsItIsForAnotherSelection) {
    const auto before = everything_in("cut");
    const auto refused =
        run({"export", "card.shelf", "--to", "cut", "--origin", "live", "--source", "card.img"});
    EXPECT_EQ(refused.status, 4) << refused.out;
    EXPECT_EQ(everything_in("cut"), before);
}

}  // namespace undershelf::test
