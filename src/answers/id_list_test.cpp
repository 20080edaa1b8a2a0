#include "answers/id_list.hpp"

#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <sstream>

#include "base/error.hpp"
#include "shelf/writer.hpp"
#include "support/temporary_folder.hpp"

namespace undershelf {

namespace {

using ::testing::ElementsAre;
using ::testing::HasSubstr;

ListedIds read(const std::string& text) {
    std::istringstream in(text);
    return read_id_list(in, "ticks.txt");
}
std::string refusal(const std::string& text) {
    try {
        read(text);
    } catch (const Error& e) {
        EXPECT_EQ(e.trouble(), Trouble::usage);
        return e.what();
    }
    return "taken";
}

}  // namespace

TEST(IdList, HasANumberALine) {
    const auto list = read(
        "\xef\xbb\xbf"
        "12\r\n\r\n# what she wants\r\n 7 \r\n12\r\n20-22\r\n");
    EXPECT_THAT(list.ids.ranges(), ElementsAre(ByteRange{7, 1}, ByteRange{12, 1}, ByteRange{20, 3}));
    EXPECT_EQ(list.shelf, "");
}

TEST(IdList, MayBeAListOfOurs) {
    EXPECT_THAT(read("volume,id,path\n1,12,\"Scripts/a,b \"\"x\"\".txt\"\n1,15,plain\n").ids.ranges(),
                ElementsAre(ByteRange{12, 1}, ByteRange{15, 1}));
    EXPECT_THAT(read("{\"id\":12,\"path\":\"a\"}\n{\"id\":13}\n").ids.ranges(),
                ElementsAre(ByteRange{12, 2}));
}

TEST(IdList, OfOursHasNoFolders) {
    // By its number a folder would be taken for all that is in it.
    EXPECT_THAT(read("id,is_dir\n12,true\n15,false\n").ids.ranges(), ElementsAre(ByteRange{15, 1}));
    EXPECT_THAT(read("{\"id\":12,\"is_dir\":true}\n{\"id\":13,\"is_dir\":false}\n").ids.ranges(),
                ElementsAre(ByteRange{13, 1}));
}

TEST(IdList, SaysWhereItIsWrong) {
    EXPECT_THAT(refusal("12\ntwelve\n"), HasSubstr("Line 2 of ticks.txt says `twelve`"));
    EXPECT_THAT(refusal("name,size\n12,13\n"), HasSubstr("Line 1 of ticks.txt says `name,size`"));
    EXPECT_THAT(refusal("id,size\n,13\n"), HasSubstr("Line 2"));
    EXPECT_THAT(refusal("{\"id\":\"12\"}\n"), HasSubstr("no JSON object with a number `id`"));
    EXPECT_THAT(refusal("{\"id\"\n"), HasSubstr("no JSON object"));
    EXPECT_THAT(refusal("9-3\n"), HasSubstr("Line 1"));
    EXPECT_THAT(refusal("99999999999999999999\n"), HasSubstr("Line 1"));
    EXPECT_THAT(refusal(std::string(2 << 20, '1')), HasSubstr("more than 1 MiB in one line"));
}

TEST(IdList, TakesAMillionLines) {
    std::string text;
    for (int i = 1'000'000; i > 0; --i) text += std::to_string(i) + "\r\n";
    EXPECT_THAT(read(text).ids.ranges(), ElementsAre(ByteRange{1, 1'000'000}));
}

TEST(IdList, IsHeldAgainstItsShelf) {
    const test::TemporaryFolder folder;
    {
        ShelfWriter writer(SourceGuard::no_source(), folder.at("a.shelf"));
        writer.set_source({"/cards/card.img", 1000, 512}, {});
        writer.begin_scan(Reach::volumes);
        for (int i : {3, 4, 9}) {
            Entry e;
            e.name = "cue.csv";
            e.key = {static_cast<std::uint64_t>(i), 0};
            writer.add_entry(i, 1, -1, e, sorting_of(e), {});
        }
    }
    const Shelf shelf(folder.at("a.shelf"));
    EXPECT_EQ(shelf.identity().size(), 16u);
    EXPECT_TRUE(check_id_list(shelf, read(id_list_heading(shelf) + "\n3\n9\n")).empty());
    EXPECT_THAT(check_id_list(shelf, read("1-5\n7\n9\n11\n")),
                ElementsAre("ticks.txt: 5 numbers are no entries here: 1, 2, 5, ..."));
    EXPECT_THAT(check_id_list(shelf, read("3\n10\n")),
                ElementsAre("ticks.txt: 1 number is no entry here: 10."));
    try {
        check_id_list(shelf, read("# undershelf shelf 0123456789abcdef\n3\n"));
        FAIL();
    } catch (const Error& e) {
        EXPECT_EQ(e.trouble(), Trouble::refused);
        EXPECT_THAT(e.what(), HasSubstr("was made from another shelf"));
    }
}

}  // namespace undershelf
