#include "base/json_text.hpp"

#include <gtest/gtest.h>

#include <nlohmann/json.hpp>

namespace undershelf {
namespace {

TEST(JsonText, ComesBackAsItWas) {
    const std::string text = R"({"z":[1,-2.5,null,"a\"[\\"],"a":{"b":true}})";
    EXPECT_EQ(json_text(ordered_json_in(text)), text);
    EXPECT_EQ(json_text(json_in(text)), R"({"a":{"b":true},"z":[1,-2.5,null,"a\"[\\"]})");
    EXPECT_EQ(json_text(ordered_json_in("[1]"), 2), "[\n  1\n]");
}

TEST(JsonText, WhatIsNotJsonIsOfNoType) {
    for (const auto* text : {"", "{", "[1,]", "nul", "{\"a\":1}x", "\"\xff\""}) {
        EXPECT_TRUE(json_in(text).is_discarded()) << text;
        EXPECT_TRUE(ordered_json_in(text).is_discarded()) << text;
    }
}

TEST(JsonText, BytesThatAreNotUtf8AreReplaced) {
    EXPECT_EQ(json_text(nlohmann::json("a\xff")), "\"a\xEF\xBF\xBD\"");
    EXPECT_EQ(json_text(nlohmann::ordered_json("a\xff")), "\"a\xEF\xBF\xBD\"");
}

TEST(JsonText, IsNestedAsDeeplyAsWeWriteAndNotDeeper) {
    const auto nested = [](int levels) { return std::string(levels, '[') + std::string(levels, ']'); };
    EXPECT_EQ(json_text(json_in(nested(100))), nested(100));
    EXPECT_TRUE(json_in(nested(101)).is_discarded());
    EXPECT_TRUE(ordered_json_in(nested(1'000'000)).is_discarded());
    // Brackets in strings and side by side are no levels.
    const auto text = "[\"" + std::string(200, '[') + "\\\"{\"" + [] {
        std::string all;
        for (int i = 0; i < 200; ++i) all += ",[]";
        return all;
    }() + "]";
    EXPECT_EQ(json_text(json_in(text)), text);
}

}  // namespace
}  // namespace undershelf
