#include "source/unreadable_list.hpp"

#include <gtest/gtest.h>

#include "base/error.hpp"
#include "support/temporary_folder.hpp"

namespace undershelf {

TEST(UnreadableList, ReadsRanges) {
    const test::TemporaryFolder folder;
    const auto set = read_unreadable_list(folder.write("bad.csv", "offset,length\r\n4096,512\n 0 , 10 \n\n"));
    EXPECT_EQ(set.ranges(), (std::vector<ByteRange>{{0, 10}, {4096, 512}}));
}

TEST(UnreadableList, NamesTheLineThatIsWrong) {
    const test::TemporaryFolder folder;
    for (const char* line : {"x,1", "1", "1,2,3", "-1,5", "18446744073709551615,10"}) {
        const auto path = folder.write("bad.csv", std::string("offset,length\n1,2\n") + line + "\n");
        try {
            read_unreadable_list(path);
            ADD_FAILURE() << line;
        } catch (const Error& e) {
            EXPECT_NE(std::string(e.what()).find("line 3"), std::string::npos) << e.what();
        }
    }
    EXPECT_THROW(read_unreadable_list(folder.write("none.csv", "start,size\n")), Error);
    EXPECT_THROW(read_unreadable_list(folder.at("missing.csv")), Error);
}

}  // namespace undershelf
