#include "rating/siblings.hpp"

#include <gtest/gtest.h>

namespace undershelf {

namespace {
using Fit = Siblings::Fit;

ByteVector raw(const std::string& text) {
    return {text.begin(), text.end()};
}

/// What three or more live files of one extension say of a lost one.
Fit fit(const std::vector<std::string>& live, const std::string& lost, const std::string& ext = "dat") {
    Siblings siblings([&](std::int64_t id) { return raw(live[static_cast<std::size_t>(id)]); });
    for (std::size_t i = 0; i < live.size(); ++i) siblings.add(1, ext, static_cast<std::int64_t>(i));
    return siblings.compare(1, ext, raw(lost)).fit;
}
const std::string zero(1, '\0');
}  // namespace

TEST(Siblings, TellTextsFromBinaryData) {
    EXPECT_EQ(fit({"act one", "scene", "props"}, "curtain"), Fit::looks_alike);
    EXPECT_EQ(fit({"act one", "scene", "props"}, zero + "curtain"), Fit::differs);
    EXPECT_EQ(fit({zero + "a", "b" + zero, "\1\2"}, "curtain"), Fit::differs);
    EXPECT_EQ(fit({zero + "a", "b" + zero, "\1\2"}, "cur" + zero), Fit::looks_alike);
    EXPECT_EQ(fit({zero + "a", "scene", "props"}, "curtain"), Fit::unknown);
}

TEST(Siblings, KnowACommonStart) {
    const std::vector<std::string> live{"CWLP1 oak" + zero, "CWLP2", "CWLP3 more"};
    EXPECT_EQ(fit(live, "CWLP9"), Fit::same_start);
    EXPECT_EQ(fit(live, "CWLX9"), Fit::differs);
    EXPECT_EQ(fit(live, "CW"), Fit::unknown);  // too short to tell, and its siblings are of both kinds
}

TEST(Siblings, KnowACommonFormat) {
    const std::string jfif("\xff\xd8\xff\xe0\0\x10JFIF\0", 11), exif(
                                                                    "\xff\xd8\xff\xe1\0\x20"
                                                                    "Exif\0",
                                                                    11);
    // All begin with the same bytes, which are one camera's way and not the format's.
    const std::vector<std::string> live{jfif + "1", jfif + "2", jfif + "3"};
    EXPECT_EQ(fit(live, exif), Fit::same_start);
    EXPECT_EQ(fit(live, "\x89PNG\r\n\x1a\n"), Fit::differs);
    EXPECT_EQ(fit({jfif, exif, jfif}, exif), Fit::same_start);
    EXPECT_EQ(fit({jfif, exif, "props"}, "curtain"), Fit::unknown);
}

TEST(Siblings, AreAskedOnlyWhereThereAreSomeAndNothingElseTells) {
    EXPECT_EQ(fit({"act one", "scene"}, zero + "curtain"), Fit::unknown);
    EXPECT_EQ(fit({"act one", "scene", "props"}, zero, "png"), Fit::unknown);
    EXPECT_EQ(fit({"act one", "scene", "props"}, zero, "txt"), Fit::unknown);
    EXPECT_EQ(fit({"act one", "scene", "props"}, zero, ""), Fit::unknown);
    // What reads as zeros tells nothing of its kind.
    EXPECT_EQ(fit({zero, zero, zero, zero}, "curtain"), Fit::unknown);
}

TEST(Siblings, AreDrawnFromAllThatThereAre) {
    // Sixteen folders of one kind, then many of another.
    std::size_t late = 0;
    Siblings siblings([&](std::int64_t id) {
        late += id >= 1000;
        return raw("CWLP" + std::to_string(id));
    });
    for (std::int64_t id = 0; id < 10'000; ++id) siblings.add(1, "dat", id);
    siblings.compare(1, "dat", raw("CWLP"));
    EXPECT_GE(late, 8u);
}

TEST(Siblings, LooksAtAFew) {
    int looks = 0;
    Siblings siblings([&](std::int64_t) {
        ++looks;
        return raw("act one");
    });
    for (int i = 0; i < 1000; ++i) siblings.add(1, "dat", i);
    for (int i = 0; i < 5; ++i) siblings.compare(1, "dat", raw("curtain"));
    EXPECT_LE(looks, 16);
}

}  // namespace undershelf
