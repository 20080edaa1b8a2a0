#include "report/wanted.hpp"

#include <gtest/gtest.h>

#include <sstream>

#include "base/error.hpp"

namespace undershelf {

namespace {

ShelfEntry entry(const char* folder, const char* name, Grade grade) {
    ShelfEntry out;
    out.folder_path = folder;
    out.name = name;
    out.rating.grade = grade;
    return out;
}

/// Lines that the list has of a text, after these files were looked at.
std::vector<WantedLine> found_by(const std::string& text, const std::vector<ShelfEntry>& files) {
    std::istringstream in(text);
    WantedList list(in, "wanted.txt");
    for (const auto& file : files) list.look_at(file);
    return list.lines();
}

}  // namespace

TEST(WantedList, FindsNamesPartsAndPatterns) {
    const std::vector<ShelfEntry> files{entry("Scripts", "The Owl.txt", Grade::doubtful),
                                        entry("Posters", "owl and moon.PDF", Grade::verified),
                                        entry("Scripts/Old", "fox.txt", Grade::gone)};
    const auto lines = found_by(
        "\xEF\xBB\xBFowl\r\n# no line\r\n\r\n*.txt\r\nscripts/*\r\nviolin\r\n?ox.t*\r\n*\r\nold/fox\r\n",
        files);
    ASSERT_EQ(lines.size(), 7u);
    EXPECT_EQ(lines[0].text, "owl");
    EXPECT_EQ(lines[0].files, 2u);
    EXPECT_EQ(lines[0].best, Grade::verified);
    EXPECT_EQ(lines[0].path, "Posters/owl and moon.PDF");
    EXPECT_EQ(lines[1].files, 2u);
    EXPECT_EQ(lines[2].files, 2u);
    EXPECT_EQ(lines[3].files, 0u);
    EXPECT_EQ(lines[4].files, 1u);
    EXPECT_EQ(lines[5].files, 3u);
    EXPECT_EQ(lines[6].path, "Scripts/Old/fox.txt");
}

TEST(WantedList, FindsWordsWithinWords) {
    const auto lines = found_by("she\nhers\nhe\nhis\n", {entry("", "ushers.txt", Grade::likely)});
    EXPECT_EQ(lines[0].files, 1u);
    EXPECT_EQ(lines[1].files, 1u);
    EXPECT_EQ(lines[2].files, 1u);
    EXPECT_EQ(lines[3].files, 0u);
}

TEST(WantedList, CountsAFileOnceForALine) {
    EXPECT_EQ(found_by("o\n", {entry("", "moon owl.txt", Grade::likely)})[0].files, 1u);
}

TEST(WantedList, TakesTenThousandLines) {
    std::string text;
    for (int i = 0; i < 10'000; ++i) text += "prop " + std::to_string(i) + ".txt\n";
    const auto lines =
        found_by(text, {entry("", "prop 77.txt", Grade::likely), entry("", "prop 9999.txt", Grade::likely)});
    EXPECT_EQ(lines.size(), 10'000u);
    EXPECT_EQ(lines[77].files, 1u);
    EXPECT_EQ(lines[9999].files, 1u);
    EXPECT_EQ(lines[78].files, 0u);
    EXPECT_THROW(found_by(std::string(5000, 'x') + "\n", {}), Error);
}

}  // namespace undershelf
