#include "answers/known_sums.hpp"

#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <sstream>

#include "base/error.hpp"

namespace undershelf {

namespace {
KnownSums read(const std::string& text) {
    std::istringstream in(text);
    return read_known_sums(in, "known.txt", "sha256-from");
}
const std::string a(64, 'a'), b(64, 'b');
}  // namespace

TEST(KnownSums, AreAsSha256sumWritesThem) {
    const auto known = read("# the theatre's own\r\n" + b + "  Scripts/winter.txt\r\n\n" +
                            std::string(64, 'A') + "\n\\" + b + " *odd\\nname\n");
    EXPECT_THAT(known.sums, ::testing::ElementsAre(a, b));
}

TEST(KnownSums, AreNothingElse) {
    for (const auto& wrong : {a + "x", a.substr(1), std::string("winter.txt"), std::string(64, 'g')}) {
        try {
            read(a + "\n" + wrong + "\n");
            FAIL() << wrong;
        } catch (const Error& e) {
            EXPECT_EQ(e.trouble(), Trouble::usage);
            EXPECT_THAT(e.what(), ::testing::HasSubstr("Line 2 of known.txt is no SHA-256"));
        }
    }
    EXPECT_THROW(known_sums_from("/nowhere/known.txt", "sha256-from"), Error);
}

}  // namespace undershelf
