#include "rating/explain.hpp"

#include <gtest/gtest.h>

#include <set>

namespace undershelf {

TEST(Explain, HasASentenceForEveryFact) {
    std::set<std::string> sentences;
    const auto name = [](std::int64_t id) { return "entry " + std::to_string(id); };
    const std::set<int> never_written{29, 32, 35, 38};
    for (int fact = static_cast<int>(Fact::live_chain); fact < facts_end; ++fact) {
        if (never_written.contains(fact)) continue;
        const auto sentence = explain({static_cast<Fact>(fact), 70, 3, "some text", 1, 0}, name);
        EXPECT_FALSE(sentence.empty()) << fact;
        sentences.insert(sentence);
    }
    EXPECT_GT(sentences.size(), 35u);
}

TEST(Explain, NamesWhoHasTheBytes) {
    const auto name = [](std::int64_t id) { return "entry " + std::to_string(id); };
    EXPECT_EQ(explain({Fact::overwritten, 512, 17, {}, 0, 0}, name),
              "512 bytes of it belong now to entry 17.");
    EXPECT_EQ(explain({Fact::overwritten, 1, 0, {}, 0, 0}, name),
              "1 byte of it belongs now to the file system itself, or somebody not listed.");
}

TEST(Explain, SaysWhatTheRestOfTheVolumeTells) {
    const auto said = [](Fact fact, std::uint64_t a, std::uint64_t b, const std::string& text = {}) {
        return explain({fact, a, b, text}, [](std::int64_t id) { return "entry " + std::to_string(id); });
    };
    EXPECT_EQ(said(Fact::not_reused, 0, 0).find('%'), std::string::npos);
    EXPECT_NE(said(Fact::not_reused, 47, 0).find("make up 47 % of the space that is free now"),
              std::string::npos);
    EXPECT_NE(said(Fact::in_turns, 0, 34).find("entry 34"), std::string::npos);
    EXPECT_NE(said(Fact::siblings, 3, 1, "text").find("all begin with text, and this one does, too"),
              std::string::npos);
    EXPECT_NE(said(Fact::siblings, 3, 0, "text").find("this one does not"), std::string::npos);
    EXPECT_NE(said(Fact::step_prior, 2, 3).find("Of 3 live files"), std::string::npos);
    EXPECT_NE(said(Fact::steps_over_lost, 2, 0).find("2 lost files"), std::string::npos);
}

}  // namespace undershelf
