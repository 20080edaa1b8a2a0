// Shelves that earlier versions of the program wrote are read as these versions read them, and brought up to
// date.

#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <map>
#include <nlohmann/json.hpp>
#include <set>

#include "support/formatted_card.hpp"
#include "support/json.hpp"
#include "support/packed_file.hpp"
#include "support/program.hpp"
#include "support/temporary_folder.hpp"

namespace undershelf::test {

namespace {

using nlohmann::json;
using ::testing::HasSubstr;
using ::testing::Not;

/// Version, and name: a formatted card (FAT32), a disk (NTFS) or the studio's (HFS+), all swept.
class OldShelf : public ::testing::TestWithParam<std::tuple<int, const char*>> {
  protected:
    static std::string stored(const char* suffix) {
        const auto [version, name] = GetParam();
        return UNDERSHELF_SHELVES_DIR "/version-" + std::to_string(version) + "/" + name + suffix;
    }
    void SetUp() override { folder.write("old.shelf", unpacked_file(stored(".shelf.gz"))); }
    Ran run(std::vector<std::string> arguments) {
        arguments.insert(arguments.begin(), UNDERSHELF_PROGRAM);
        return run_in(folder.path().string(), arguments);
    }
    std::vector<json> listed(const std::string& shelf, const std::string& fields) {
        return lines_of(run({"list", shelf, "--format", "jsonl", "--helpers", "--columns", fields}).out);
    }

    TemporaryFolder folder;
};

std::string name_of(const ::testing::TestParamInfo<OldShelf::ParamType>& info) {
    return "Version" + std::to_string(std::get<0>(info.param)) + std::get<1>(info.param);
}
class OldCard : public OldShelf {};

}  // namespace

INSTANTIATE_TEST_SUITE_P(Shelves, OldShelf,
                         ::testing::Combine(::testing::Range(1, 8),
                                            ::testing::Values("card", "disk", "studio")),
                         name_of);
INSTANTIATE_TEST_SUITE_P(Shelves, OldCard,
                         ::testing::Combine(::testing::Range(1, 8), ::testing::Values("card")), name_of);

TEST_P(OldShelf, SaysWhatItSaidThen) {
    const auto then = lines_of(read_file(stored(".jsonl")));
    const auto now =
        listed("old.shelf", "id,volume,origin,path,stream,grade,chance,left,layout,size,modified,marked");
    ASSERT_EQ(now.size(), then.size());
    for (std::size_t i = 0; i < now.size(); ++i) EXPECT_EQ(now[i], then[i]);
    for (const auto& e : then) {
        const auto shown = run({"show", "old.shelf", std::to_string(e["id"].get<int>())});
        EXPECT_EQ(shown.status, 0) << shown.err;
        EXPECT_THAT(shown.out, Not(HasSubstr("does not know")));
    }
    for (const char* command : {"summary", "tree"})
        EXPECT_EQ(run({command, "old.shelf"}).status, 0) << command;
    EXPECT_EQ(run({"list", "old.shelf", "--kind", "link"}).status, 0);
    EXPECT_EQ(run({"mark", "old.shelf", "--origin", "live"}).status, 0);
}

TEST_P(OldCard, IsExportedFromAndBroughtUpToDate) {
    folder.write("card.img", formatted_card().bytes());
    EXPECT_EQ(run({"export", "old.shelf", "--to", "out", "--origin", "live", "--source", "card.img"}).status,
              0);
    EXPECT_EQ(read_file(folder.at("out/data/live/NEW.TXT")), sample_text("new", 400));
    ASSERT_EQ(run({"scan", "card.img", "--shelf", "old.shelf", "--reach", "traces"}).status, 0);
    ASSERT_EQ(run({"scan", "card.img", "--shelf", "new.shelf", "--reach", "traces"}).status, 0);
    std::set<json> now, fresh;
    for (auto& e : listed("old.shelf", "origin,path,grade,chance,size,modified")) now.insert(e);
    for (auto& e : listed("new.shelf", "origin,path,grade,chance,size,modified")) fresh.insert(e);
    EXPECT_EQ(now, fresh);
    // Ids stay, unless what had one turned out to be a former volume's.
    std::map<int, json> places;
    for (const auto& e : listed("old.shelf", "id,path")) places[e["id"].get<int>()] = e["path"];
    for (const auto& e : lines_of(read_file(stored(".jsonl")))) {
        const auto it = places.find(e["id"].get<int>());
        if (it == places.end()) {
            EXPECT_EQ(e["origin"], "deleted") << e;
        } else {
            EXPECT_EQ(it->second, e["path"]);
        }
    }
}

}  // namespace undershelf::test
