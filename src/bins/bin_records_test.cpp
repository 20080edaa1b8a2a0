#include "bins/bin_records.hpp"

#include <gtest/gtest.h>

#include "support/bin_files.hpp"

namespace undershelf {

namespace {

std::optional<BinRecord> parse(const std::string& bytes) {
    return parse_windows_record({reinterpret_cast<const std::uint8_t*>(bytes.data()), bytes.size()});
}

}  // namespace

TEST(BinRecord, ReadsBothVersions) {
    for (const int version : {1, 2}) {
        const auto record = parse(test::windows_record(version, u"D:\\Scripts\\Winter play.txt"));
        ASSERT_TRUE(record) << version;
        EXPECT_EQ(record->first_path, "Scripts/Winter play.txt");
        EXPECT_EQ(record->size, 1234u);
        EXPECT_EQ(iso8601(*record->deleted), "2024-01-17T21:20:00Z");
    }
}

TEST(BinRecord, SurvivesDamage) {
    const auto sound = test::windows_record(2, u"D:\\x");
    for (std::size_t cut = 0; cut < sound.size(); ++cut) parse(sound.substr(0, cut));
    auto long_length = sound;
    for (int i = 24; i < 28; ++i) long_length[static_cast<std::size_t>(i)] = '\xFF';
    EXPECT_EQ(parse(long_length)->first_path, "x");
    EXPECT_FALSE(parse(std::string(100, '\0')));
}

TEST(TrashInfo, ReadsPathAndDate) {
    const auto info = parse_trash_info(
        "[Trash Info]\nPath=Scripts/Ma%C3%9Fe%20und%20F%C3%A4den.txt\nDeletionDate=2025-04-01T10:20:30\n");
    ASSERT_TRUE(info);
    EXPECT_EQ(info->first_path, "Scripts/Maße und Fäden.txt");
    EXPECT_EQ(iso8601(*info->deleted), "2025-04-01T10:20:30");
    EXPECT_FALSE(parse_trash_info("[Trash Info]\n"));
}

TEST(Info2, ReadsBothLengths) {
    for (const std::size_t record : {280u, 800u}) {
        const auto found = parse_info2(test::info2(record, "C:\\Sound\\Ma\xDF.WAV", u"C:\\Sound\\Maß.WAV"));
        ASSERT_EQ(found.size(), 1u) << record;
        EXPECT_EQ(found[0].name, "Dc3.wav");
        EXPECT_EQ(found[0].first_path, "Sound/Maß.WAV");
        EXPECT_EQ(iso8601(*found[0].deleted), "2024-01-17T21:20:00Z");
    }
}

TEST(Info2, KnowsWhatWasTakenOut) {
    std::string path = "C:\\Sound\\owl.wav";
    path[0] = '\0';
    const auto found = parse_info2(test::info2(280, path, u""));
    ASSERT_EQ(found.size(), 1u);
    EXPECT_EQ(found[0].first_path, "Sound/owl.wav");
}

TEST(Info2, SurvivesDamage) {
    const auto sound = test::info2(800, "C:\\a", u"C:\\a");
    for (std::size_t cut = 0; cut < sound.size(); cut += 3)
        EXPECT_TRUE(parse_info2({sound.data(), cut}).empty());
    for (std::size_t at = 0; at + 4 <= 20; at += 4) {
        auto bad = sound;
        std::fill_n(bad.begin() + static_cast<std::ptrdiff_t>(at), 4, 0xFF);
        EXPECT_LE(parse_info2(bad).size(), 1u);
    }
}

}  // namespace undershelf
