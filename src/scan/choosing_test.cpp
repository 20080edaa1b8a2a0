#include "scan/choosing.hpp"

#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include "base/error.hpp"
#include "base/sha256.hpp"
#include "scan/scan.hpp"
#include "support/fat_image.hpp"
#include "support/temporary_folder.hpp"

namespace undershelf {

namespace {

using ::testing::UnorderedElementsAre;

class Choosing : public ::testing::Test {
  protected:
    Choosing() {
        test::FatImage card({.clusters = 3000, .sectors_per_cluster = 1});
        fat::Cluster at = 10;
        const auto put = [&](const std::string& name, const std::u16string& long_name,
                             const std::string& content) {
            return card.put(0, name, long_name, {at++}, content);
        };
        put("PLAY1   CR2", u"play1.CR2", "the raw picture");
        put("PLAY1   JPG", u"play1.jpg", "its copy");
        put("PLAY1C~1XMP", u"play1.CR2.xmp", "its edits");
        put("PLAY2   CR2", u"play2.CR2", "another one");
        put("PLAY1   TXT", u"play1.txt", "the lantern fox");
        put("NOTES   TXT", u"notes.txt", "nothing of note");
        const auto image = folder.write("card.img", card.bytes());
        Progress progress;
        scan({image, folder.at("card.shelf"), {}, {}}, progress);
    }
    std::vector<std::string> names(Selection s) {
        Progress progress;
        const Shelf shelf(folder.at("card.shelf"));
        const auto chosen = choose(shelf, std::move(s), {}, progress);
        std::vector<std::string> out;
        shelf.for_each(chosen.selection, {}, [&](const ShelfEntry& e) {
            out.push_back(e.name);
            return true;
        });
        return out;
    }
    static std::shared_ptr<const KnownSums> sums(std::vector<std::string> contents) {
        KnownSums out;
        for (const auto& c : contents) out.sums.push_back(sha256_of(c));
        std::sort(out.sums.begin(), out.sums.end());
        return std::make_shared<const KnownSums>(std::move(out));
    }

    test::TemporaryFolder folder;
};

}  // namespace

TEST_F(Choosing, KeepsPairsTogetherOnWish) {
    Selection raw;
    raw.names = {"=play1.CR2"};
    EXPECT_THAT(names(raw), UnorderedElementsAre("play1.CR2"));
    raw.with_pairs = true;
    EXPECT_THAT(names(raw), UnorderedElementsAre("play1.CR2", "play1.jpg", "play1.CR2.xmp"));
    Selection edits;
    edits.exts = {"xmp"};
    edits.with_pairs = true;
    EXPECT_THAT(names(edits), UnorderedElementsAre("play1.CR2.xmp", "play1.CR2"));
    Selection text;
    text.names = {"=play1.txt"};
    text.with_pairs = true;
    EXPECT_THAT(names(text), UnorderedElementsAre("play1.txt"));
}

TEST_F(Choosing, KnowsFilesByTheirSums) {
    Selection s;
    s.known = sums({"its copy", "another one", "what nobody has"});
    EXPECT_THAT(names(s), UnorderedElementsAre("play1.jpg", "play2.CR2"));
    Selection others;
    others.exts = {"cr2", "jpg", "txt"};
    others.not_known = sums({"its copy", "another one"});
    EXPECT_THAT(names(others), UnorderedElementsAre("play1.CR2", "play1.txt", "notes.txt"));
    others.known = sums({"nothing of note"});
    EXPECT_THAT(names(others), UnorderedElementsAre("notes.txt"));
}

TEST_F(Choosing, AsksNothingOfTheSourceWithoutNeed) {
    std::filesystem::remove(folder.at("card.img"));
    Selection s;
    s.exts = {"cr2"};
    s.with_pairs = true;
    EXPECT_EQ(names(s).size(), 4u);
    s.known = sums({"its copy"});
    EXPECT_THROW(names(s), Error);
}

TEST_F(Choosing, ThatComesToNothingSelectsNothing) {
    Selection s;
    s.known = sums({"what nobody has"});
    EXPECT_TRUE(names(s).empty());
    s.with_pairs = true;
    EXPECT_TRUE(names(s).empty());
}

}  // namespace undershelf
