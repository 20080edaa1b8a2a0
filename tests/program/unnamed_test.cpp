// Contents that nothing names, from a scan to the bag.

#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <nlohmann/json.hpp>
#include <sstream>

#include "support/fat_image.hpp"
#include "support/memory_content.hpp"
#include "support/program_test.hpp"

namespace undershelf::test {

namespace {

using nlohmann::json;
using ::testing::AllOf;
using ::testing::HasSubstr;
using ::testing::Not;

class Nameless : public ProgramTest {
  protected:
    std::vector<json> rows(std::vector<std::string> more = {}) {
        more.insert(more.begin(), {"list", "card.shelf", "--format", "jsonl", "--origin", "unnamed"});
        std::vector<json> out;
        for (auto& row : lines_of(run(more).out)) {
            if (row["is_dir"] == false) out.push_back(std::move(row));
        }
        return out;
    }
    /// Contents one after the other at whole sectors, on a source without any volume.
    void write_source(const std::vector<ByteVector>& contents) {
        ByteVector bytes(64 << 10, 0);
        for (const auto& c : contents) {
            bytes.insert(bytes.end(), c.begin(), c.end());
            bytes.resize((bytes.size() / 512 + 9) * 512);
        }
        folder.write("card.img", bytes);
    }
};

}  // namespace

TEST_F(Nameless, AreListedShownAndExportedByKind) {
    write_source({png_file(), libretto(1300), flac_file()});
    const auto ran = run({"scan", "card.img", "--reach", "content"});
    EXPECT_EQ(ran.status, 0);
    EXPECT_THAT(ran.out, HasSubstr("3 of them have lost their names and were recognised by content"));
    const auto all = rows();
    ASSERT_EQ(all.size(), 3u);
    EXPECT_EQ(all[0]["volume"], nullptr);
    EXPECT_EQ(all[0]["path"], "unnamed/picture/picture-65536.png");
    EXPECT_EQ(all[0]["name_certainty"], "made up");
    EXPECT_EQ(all[0]["layout"], "assumed");
    EXPECT_EQ(all[0]["grade"], "verified");
    EXPECT_EQ(all[0]["complete"], true);
    EXPECT_EQ(rows({"--kind", "audio"}).size(), 1u);
    EXPECT_EQ(rows({"--under", "unnamed/text"}).size(), 1u);
    EXPECT_THAT(run({"tree", "card.shelf"}).out,
                AllOf(HasSubstr("in no volume that is known"), HasSubstr("picture/"), HasSubstr(".flac")));
    EXPECT_THAT(run({"show", "card.shelf", dumped(all[0]["id"])}).out,
                AllOf(HasSubstr("Nothing names it"), HasSubstr("its own structure tells where it ends")));
    EXPECT_THAT(run({"summary", "card.shelf"}).out, AllOf(HasSubstr("unnamed"), Not(HasSubstr("CLUSTER"))));
    EXPECT_EQ(run({"export", "card.shelf", "--to", "out", "--lost"}).status, 0);
    const auto exported = read_file(folder.at("out/data/unnamed/picture/picture-65536.png"));
    const auto picture = png_file();
    EXPECT_EQ(exported, std::string(picture.begin(), picture.end()));
    // Checking has nothing to add.
    EXPECT_THAT(run({"check", "card.shelf"}).out, HasSubstr("3 files were read to their end when found"));
}

TEST_F(Nameless, CanBeNarrowed) {
    write_source({png_file(), libretto(1300), flac_file()});
    run({"scan", "card.img", "--reach", "content", "--kind", "audio"});
    EXPECT_EQ(rows().size(), 1u);
    run({"scan", "card.img", "--reach", "content", "--content", "png"});
    EXPECT_EQ(rows().size(), 2u);
    EXPECT_EQ(run({"scan", "card.img", "--reach", "content", "--kind", "audio", "--ext", "png"}).status, 2);
    EXPECT_EQ(run({"scan", "card.img", "--reach", "content", "--content", "cassette"}).status, 2);
}

TEST_F(Nameless, AreNotMadeOfNothing) {
    folder.write("card.img", ByteVector(1 << 20));
    EXPECT_EQ(run({"scan", "card.img", "--reach", "content"}).status, 1);
    EXPECT_TRUE(rows().empty());
}

TEST_F(Nameless, OfASourceOfOneSectorRepeatedAreFew) {
    auto head = jpeg_file();
    head.resize(512);
    ByteVector bytes;
    for (int i = 0; i < 20'000; ++i) bytes.insert(bytes.end(), head.begin(), head.end());
    folder.write("card.img", bytes);
    const auto ran = run({"scan", "card.img", "--reach", "content"});
    EXPECT_THAT(ran.err, HasSubstr("more places at which a content may begin than are worth looking at"));
    EXPECT_LT(rows().size(), 5000u);
}

}  // namespace undershelf::test
