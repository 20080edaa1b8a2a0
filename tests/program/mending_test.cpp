// Files in pieces that nothing records: dealt out, listed, shown and exported.

#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <fstream>
#include <iterator>
#include <nlohmann/json.hpp>

#include "support/fat_image.hpp"
#include "support/memory_content.hpp"
#include "support/program_test.hpp"

namespace undershelf::test {

namespace {

using ::testing::HasSubstr;
using ::testing::Not;

class Mending : public ProgramTest {
  protected:
    static std::string noise(std::uint32_t seed, std::size_t bytes) {
        auto random = random_numbers(seed);
        std::string out(bytes, ' ');
        for (auto& c : out) c = static_cast<char>(random());
        return out;
    }

    /// An archive and plain data, each in runs of two clusters in turn, both deleted; and a live text.
    Mending() {
        FatImage card({.clusters = 3000});
        const auto packed = zip_file({{"act 1.bin", bytes_of(noise(1, 20 * 512))}});
        archive.assign(packed.begin(), packed.end());
        std::vector<fat::Cluster> own[2];
        const std::size_t wanted[] = {(archive.size() + 511) / 512, (plain.size() + 511) / 512};
        fat::Cluster at = 100;
        for (int who = 0; own[0].size() < wanted[0] || own[1].size() < wanted[1]; who = 1 - who)
            for (int run = 0; run < 2 && own[who].size() < wanted[who]; ++run) own[who].push_back(at++);
        card.erase(card.put(0, "SCRIPT  ZIP", u"", own[0], archive));
        card.erase(card.put(0, "LIGHTS  DAT", u"", own[1], plain));
        card.put(0, "LIVE    TXT", u"", {at}, "The lantern.\n");
        folder.write("card.img", card.bytes());
        run({"scan", "card.img"});
    }

    static ByteVector bytes_of(const std::string& text) { return {text.begin(), text.end()}; }
    std::string file(const std::string& name) const {
        std::ifstream in(folder.at(name), std::ios::binary);
        return {std::istreambuf_iterator<char>(in), {}};
    }
    std::string listed(const std::vector<std::string>& more) {
        std::vector<std::string> command{"list", "card.shelf", "--format",
                                         "csv",  "--columns",  "name,grade,checked"};
        command.insert(command.end(), more.begin(), more.end());
        return run(command).out;
    }

    std::string archive, plain = noise(2, 15 * 512 + 100);
};

}  // namespace

TEST_F(Mending, DealsOutWhatWasWrittenInTurns) {
    EXPECT_EQ(listed({"--mended"}), "name,grade,checked\n");
    const auto ran = run({"check", "card.shelf"});
    EXPECT_EQ(ran.status, 0) << ran.err;
    EXPECT_THAT(ran.out, HasSubstr("2 files are mended"));
    const auto rows = listed({"--mended"});
    EXPECT_THAT(rows, HasSubstr("_CRIPT.ZIP,verified,strong\n"));
    // No check tells whether it is whole: its neighbour does, and that is never proof.
    EXPECT_THAT(rows, HasSubstr("_IGHTS.DAT,likely,\n"));
    EXPECT_THAT(rows, Not(HasSubstr("LIVE")));
    const auto shown = run({"show", "card.shelf", "_IGHTS.DAT"}).out;
    EXPECT_THAT(shown, HasSubstr("written in turns with other files, 1 of these hold so"));
    EXPECT_THAT(shown, HasSubstr("it was taken to lie in one run"));
    EXPECT_EQ(run({"export", "card.shelf", "--to", "out", "--mended"}).status, 0);
    EXPECT_TRUE(file("out/data/deleted/_CRIPT.ZIP") == archive);
    EXPECT_TRUE(file("out/data/deleted/_IGHTS.DAT") == plain);
}

TEST_F(Mending, IsLeftOutWhereItIsNotWanted) {
    const auto ran = run({"check", "card.shelf", "--no-mend"});
    EXPECT_THAT(ran.out, Not(HasSubstr("mended")));
    EXPECT_EQ(listed({"--mended"}), "name,grade,checked\n");
    // What was not selected stays as it is.
    run({"check", "card.shelf", "--ext", "zip"});
    EXPECT_THAT(listed({"--mended"}), Not(HasSubstr("_IGHTS")));
    EXPECT_THAT(listed({"--mended"}), HasSubstr("_CRIPT"));
}

TEST_F(Mending, OfWhatWasMendedTheSecondTimeNothingChanges) {
    run({"check", "card.shelf"});
    const auto before = run({"list", "card.shelf", "--format", "jsonl"}).out;
    EXPECT_THAT(run({"check", "card.shelf"}).out, Not(HasSubstr("mended:")));
    EXPECT_EQ(run({"list", "card.shelf", "--format", "jsonl"}).out, before);
}

}  // namespace undershelf::test
