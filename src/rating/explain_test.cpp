#include "rating/explain.hpp"

#include <gtest/gtest.h>

#include <set>

namespace undershelf {

TEST(Explain, HasASentenceForEveryFact) {
    std::set<std::string> sentences;
    const auto name = [](std::int64_t id) { return "entry " + std::to_string(id); };
    for (int fact = static_cast<int>(Fact::live_chain); fact <= static_cast<int>(Fact::text_throughout);
         ++fact) {
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

}  // namespace undershelf
