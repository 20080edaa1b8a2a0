#include "base/print.hpp"

#include <gtest/gtest.h>

namespace undershelf {

TEST(Print, IsThatOfAllBytesInARow) {
    const ByteVector bytes{1, 0, 0, 0, 0, 0, 0, 0, 'a', 'b', 0};
    EXPECT_EQ(Print().add(std::uint64_t{1}).add(std::string_view("ab")).value(),
              Print().add(Bytes(bytes)).value());
    EXPECT_EQ(Print().value(), 0xEF46DB3751D8E999ull);  // XXH64 of nothing
}

TEST(Print, TellsWhereATextEnds) {
    EXPECT_NE(Print().add(std::string_view("ab")).add(std::string_view("c")).value(),
              Print().add(std::string_view("a")).add(std::string_view("bc")).value());
}

}  // namespace undershelf
