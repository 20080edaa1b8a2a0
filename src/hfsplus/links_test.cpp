// Links, live and lost.

#include <gtest/gtest.h>

#include "hfsplus/reader.hpp"
#include "support/fat_image.hpp"
#include "support/hfsplus_image.hpp"

namespace undershelf::hfsplus {

using namespace test::hfsplus;
using test::Collector;
using test::sample_text;

TEST(HfsPlusReader, ResolvesHardLinksAndFolderLinks) {
    Image image;
    const auto text = sample_text("shared", 500);
    image.fill(100, text);
    const std::u16string files = std::u16string(4, u'\0') + u"HFS+ Private Data",
                         folders = u".HFS+ Private Directory Data\r";
    image.leaves(
        Image::catalogue,
        {{folder_record(16, 2, files), folder_record(17, 2, folders), folder_record(20, 2, u"Scripts"),
          file_record({30, 2, u"play.txt", {}, {}, hard_link_type, hard_link_creator, 77}),
          file_record({31, 20, u"same play.txt", {}, {}, hard_link_type, hard_link_creator, 77}),
          file_record({32, 16, u"iNode77", {text.size(), {{100, 1}}}}),
          file_record({33, 2, u"iNode5", {text.size(), {{100, 1}}}})},
         {file_record({40, 2, u"Props", {}, {}, folder_link_type, folder_link_creator, 41}),
          file_record({42, 20, u"Props again", {}, {}, folder_link_type, folder_link_creator, 41}),
          folder_record(41, 17, u"dir_41"), file_record({43, 41, u"ledger.csv", {text.size(), {{101, 1}}}}),
          file_record({44, 2, u"lost link", {}, {}, hard_link_type, hard_link_creator, 99})}});
    const auto seen = read(image.bytes);
    for (const char* name : {"play.txt", "same play.txt"}) {
        ASSERT_TRUE(seen.find(name)) << name;
        EXPECT_EQ(content_of(image.bytes, *seen.find(name)), text);
        EXPECT_FALSE(seen.find(name)->system);
    }
    EXPECT_EQ(seen.find("play.txt")->key, seen.find("same play.txt")->key);
    EXPECT_TRUE(seen.find("iNode77")->system);
    EXPECT_FALSE(seen.find("iNode5")->system);
    ASSERT_TRUE(seen.find("Props") && seen.find("Props again") && seen.find("lost link"));
    EXPECT_EQ(seen.find("ledger.csv")->parent, seen.find("Props")->key);
    EXPECT_TRUE(seen.find("Props")->is_dir);
    EXPECT_FALSE(seen.find("Props")->link);
    EXPECT_FALSE(seen.find("Props again")->is_dir);
    EXPECT_EQ(seen.find("Props again")->link, "/Props");
    EXPECT_EQ(content_of(image.bytes, *seen.find("Props again")), "/Props");
    // What it means is lost, so that it is no empty file.
    EXPECT_EQ(seen.find("lost link")->link, "iNode99");
    EXPECT_EQ(seen.find("lost link")->layout, Layout::none);
    EXPECT_FALSE(seen.find("dir_41"));
    EXPECT_TRUE(seen.find("\xE2\x90\x80\xE2\x90\x80\xE2\x90\x80\xE2\x90\x80HFS+ Private Data")->system);
}

TEST(HfsPlusReader, TellsSymbolicLinksAndAttributes) {
    Image image;
    image.fill(100, "Scripts/play.txt");
    image.leaves(Image::catalogue,
                 {{file_record({21, 2, u"link", {16, {{100, 1}}}, {}, 0x736C6E6B, 0x72686170})}});
    const ByteVector mark{1, 2, 3, 4};
    image.leaves(Image::attributes, {{attribute_record(21, u"org.example.mark", mark)}});
    const auto seen = read(image.bytes);
    std::string texts;
    for (const auto& e : seen.find("link")->evidence) texts += e.text;
    EXPECT_EQ(seen.find("link")->link, "Scripts/play.txt");
    EXPECT_NE(texts.find("It is a symbolic link."), std::string::npos);
    EXPECT_NE(texts.find("org.example.mark, 4 bytes"), std::string::npos);
}

TEST(HfsPlusReader, AFolderLinkSaysWhereItsFolderIsInTheEnd) {
    Image image;
    // The folder of the first link is in another folder that is a link, which comes later.
    image.leaves(Image::catalogue,
                 {{folder_record(17, 2, u".HFS+ Private Directory Data\r"),
                   file_record({40, 51, u"Props", {}, {}, folder_link_type, folder_link_creator, 41}),
                   file_record({42, 2, u"Props again", {}, {}, folder_link_type, folder_link_creator, 41}),
                   file_record({43, 2, u"Stage", {}, {}, folder_link_type, folder_link_creator, 51}),
                   folder_record(41, 17, u"dir_41"), folder_record(51, 17, u"dir_51")}});
    const auto seen = read(image.bytes);
    ASSERT_TRUE(seen.find("Props again"));
    EXPECT_EQ(seen.find("Props again")->link, "/Stage/Props");
}

TEST(HfsPlusReader, TargetsThatWereWrittenOverAreNotSaid) {
    Image image;
    image.fill(100, std::string("\xFF\xD8\xFF\xE0 and\x01so on", 15));
    const auto link = [](std::uint32_t id, const char16_t* name) {
        return file_record({id, 2, name, {15, {{100, 1}}}, {}, 0x736C6E6B, 0x72686170});
    };
    image.leaves(Image::catalogue, {{link(21, u"live")}});
    image.put(image.place(Image::catalogue, 1) + 1600, link(22, u"lost"));
    const auto seen = read(image.bytes);
    ASSERT_TRUE(seen.find("live") && seen.find("lost"));
    EXPECT_EQ(seen.find("lost")->link, "");
    // What a live one says is what it says.
    EXPECT_NE(seen.find("live")->link, "");
}

class LostHardLinks : public ::testing::Test {
  protected:
    /// Two links to one file, and what of them is live: the rest is after the used part of the leaf.
    Collector seen_with(std::vector<ByteVector> live, const std::vector<ByteVector>& lost) {
        live.insert(live.begin(), folder_record(16, 2, std::u16string(4, u'\0') + u"HFS+ Private Data"));
        image.leaves(Image::catalogue, {live});
        auto at = image.place(Image::catalogue, 1) + 1600;
        for (const auto& r : lost) {
            image.put(at, r);
            at += r.size();
        }
        return read(image.bytes);
    }
    static ByteVector link(std::uint32_t id, const std::u16string& name) {
        return file_record({id, 2, name, {}, {}, hard_link_type, hard_link_creator, 77});
    }

    Image image;
    const std::string text = sample_text("shared", 500);
    const ByteVector inode = file_record({77, 16, u"iNode77", {500, {{100, 1}}}});
};

TEST_F(LostHardLinks, WithTheirInodeHaveItsContent) {
    image.fill(100, text);
    const auto seen = seen_with({}, {inode, link(30, u"play.txt"), link(31, u"same play.txt")});
    ASSERT_TRUE(seen.find("play.txt") && seen.find("same play.txt"));
    EXPECT_EQ(content_of(image.bytes, *seen.find("play.txt")), text);
    EXPECT_EQ(seen.find("play.txt")->key, seen.find("same play.txt")->key);
    EXPECT_EQ(seen.find("play.txt")->origin, Origin::deleted);
    EXPECT_FALSE(seen.find("play.txt")->link);
    EXPECT_FALSE(seen.find("iNode77"));
}

TEST_F(LostHardLinks, OfALiveFileAreItsEarlierNames) {
    image.fill(100, text);
    const auto seen = seen_with({link(31, u"same play.txt"), inode}, {link(30, u"play.txt")});
    EXPECT_FALSE(seen.find("play.txt"));
    EXPECT_EQ(seen.old_name_of(seen.find("same play.txt")->key), "play.txt");
}

TEST_F(LostHardLinks, WithoutAnInodeSaySo) {
    const auto seen = seen_with({}, {link(30, u"play.txt")});
    ASSERT_TRUE(seen.find("play.txt"));
    EXPECT_EQ(seen.find("play.txt")->link, "iNode77");
    EXPECT_EQ(seen.find("play.txt")->layout, Layout::none);
}

}  // namespace undershelf::hfsplus
