#include "content/titles.hpp"

#include <gtest/gtest.h>

#include "content/archive/zip_details.hpp"
#include "content/dates.hpp"
#include "content/document/pdf_details.hpp"
#include "content/format.hpp"
#include "content/formats.hpp"
#include "content/media/vorbis_comments.hpp"
#include "content/picture/exif.hpp"
#include "support/file_parts.hpp"
#include "support/memory_content.hpp"

namespace undershelf::content {

namespace {

using test::append;
using test::append_number;
using test::MemoryContent;

std::string title_of(ByteVector bytes) {
    MemoryContent content(std::move(bytes));
    const auto check = check_content(content);
    return check ? check->title : "no format";
}
ByteVector bytes_of(std::string_view text) {
    return {text.begin(), text.end()};
}

ByteVector id3_frame(std::string_view id, std::string_view text) {
    ByteVector out = bytes_of(id);
    append_number(out, text.size(), 4, true);
    append_number(out, 0, 2);
    append(out, text);
    return out;
}

}  // namespace

TEST(Titles, AreOneShortLine) {
    EXPECT_EQ(as_title("  The\tlantern \n  maker "), "The?lantern ? maker");
    EXPECT_EQ(as_title(std::string(500, 'x')).size(), 120u);
    // A character is not cut in two.
    std::string wide;
    for (int i = 0; i < 100; ++i) wide += "ü";
    EXPECT_EQ(as_title(wide).size(), 120u);
    EXPECT_EQ(as_title("\xff broken").substr(0, 3), "\uFFFD");
    EXPECT_EQ(song_title("Tilda", "Pinwheel"), "Tilda - Pinwheel");
    EXPECT_EQ(song_title("", "Pinwheel"), "Pinwheel");
}

TEST(Titles, OfSoundsComeFromTheirTags) {
    auto frames = id3_frame("TIT2", std::string_view("\1\xff\xfe"
                                                     "B\0o\0w\0",
                                                     9));
    append(frames, id3_frame("TPE1", std::string_view("\0Marrow", 7)));
    ByteVector sound = bytes_of(std::string_view("ID3\3\0\0\0\0\0", 9));
    sound.push_back(static_cast<std::uint8_t>(frames.size()));
    append(sound, frames);
    const auto plain = test::mp3_file(false);
    sound.insert(sound.end(), plain.begin() + 30, plain.end());
    EXPECT_EQ(title_of(sound), "Marrow - Bow");
    // Without a tag before the sound the one after it counts.
    auto behind = test::mp3_file(false);
    const std::string_view name = "Curtain call";
    std::fill(behind.end() - 125, behind.end(), 0);
    std::copy(name.begin(), name.end(), behind.end() - 125);
    EXPECT_EQ(title_of(behind), "Curtain call");
}

TEST(Titles, OfWavesStandInTheirInfoList) {
    EXPECT_EQ(title_of(test::wav_file()), "Thunder");
    EXPECT_EQ(title_of(test::asf_file()), "Curtain");
}

TEST(Titles, CommentsNameArtistAndTitle) {
    ByteVector comments;
    const auto add = [&](std::string_view text) {
        append_number(comments, text.size(), 4);
        append(comments, text);
    };
    add("a writer");
    append_number(comments, 3, 4);
    add("title=Thunder sheet");
    add("DATE=2024");
    add("Artist=Prop room");
    EXPECT_EQ(comments_title(comments), "Prop room - Thunder sheet");
    for (std::size_t cut = 0; cut < comments.size(); ++cut)
        comments_title(Bytes(comments).first(cut));  // ends, whatever is missing
    test::put_number(comments, 0, 0xFFFFFFFF, 4);
    EXPECT_EQ(comments_title(comments), "");
}

TEST(Titles, OfDocumentsComeFromTheirMetadata) {
    EXPECT_EQ(dublin_core_title("<x><dc:title xml:lang=\"en\">Cues &amp; props</dc:title></x>"),
              "Cues & props");
    EXPECT_EQ(dublin_core_title("<dc:title/>"), "");
    EXPECT_EQ(dublin_core_title("<dc:title>never ends"), "");
    EXPECT_EQ(title_of(test::zip_file({{"[Content_Types].xml", test::libretto(900)},
                                       {"docProps/core.xml", bytes_of("<dc:title>Autumn season</dc:title>")},
                                       {"word/document.xml", test::libretto(900)}})),
              "Autumn season");
    ByteVector set(44);
    append_number(set, 48, 4);
    for (const std::uint64_t n : {100, 2, 1, 24, 2, 32}) append_number(set, n, 4);
    for (const std::uint64_t n : {2, 1252, 0x1E, 12}) append_number(set, n, 4);
    append(set, "B\xfchnenplan\0");
    EXPECT_EQ(
        title_of(test::compound_file({{"\5SummaryInformation", set}, {"Prompt", test::libretto(5000)}})),
        "Bühnenplan");
}

TEST(Titles, OfAPdfStandInItsInformation) {
    const auto titled = [](const std::string& title) {
        auto out = bytes_of("%PDF-1.4\n1 0 obj\n<< /Title " + title + " /Author (X) >>\nendobj\n");
        append(out,
               "xref\n0 1\n0000000000 65535 f \ntrailer\n<< /Size 2 /Info 1 0 R >>\nstartxref\n9\n%%EOF\n");
        MemoryContent content(out);
        return pdf_title(content);
    };
    EXPECT_EQ(titled("(Props \\(all\\) \\101)"), "Props (all) A");
    EXPECT_EQ(titled(std::string("(\xfe\xff\0B\0o\0w)", 10)), "Bow");
    EXPECT_EQ(titled("<4142>"), "");
}

TEST(Titles, OfPhotosAreCameraAndTime) {
    // A JPEG picture with a TIFF file of two texts in its APP1 segment.
    ByteVector tiff = bytes_of("II");
    for (const auto& [value, size] : std::initializer_list<std::pair<std::uint64_t, int>>{{42, 2},
                                                                                          {8, 4},
                                                                                          {2, 2},
                                                                                          {272, 2},
                                                                                          {2, 2},
                                                                                          {9, 4},
                                                                                          {38, 4},
                                                                                          {306, 2},
                                                                                          {2, 2},
                                                                                          {20, 4},
                                                                                          {47, 4},
                                                                                          {0, 4}})
        append_number(tiff, value, size);
    append(tiff, std::string_view("Candle 3\0", 9));
    append(tiff, std::string_view("2024:03:01 19:30:05\0", 20));
    ByteVector picture{0xFF, 0xD8, 0xFF, 0xE1};
    append_number(picture, tiff.size() + 8, 2, true);
    append(picture, std::string_view("Exif\0\0", 6));
    append(picture, tiff);
    const auto plain = test::jpeg_file();
    picture.insert(picture.end(), plain.begin() + 2, plain.end());
    EXPECT_EQ(title_of(picture), "Candle 3 2024-03-01 19.30.05");
}

TEST(Titles, PicturesSayTheirsInChunks) {
    const auto chunk = [](std::string_view type, std::string_view data) {
        ByteVector out;
        test::append_number(out, data.size(), 4, true);
        test::append(out, type);
        test::append(out, data);
        test::append_number(out, 0, 4);
        return out;
    };
    using namespace std::string_view_literals;
    const auto picture = test::png_file();
    constexpr std::ptrdiff_t head = 8 + 25;
    ByteVector titled(picture.begin(), picture.begin() + head);
    test::append(titled, chunk("tEXt", "Author\0Odile"sv));
    test::append(titled, chunk("tEXt", "Title\0Bow"sv));
    titled.insert(titled.end(), picture.begin() + head, picture.end());
    EXPECT_EQ(title_of(titled), "Bow");
    EXPECT_EQ(title_of(picture), "");
    // A length that leads nowhere.
    ByteVector lying = bytes_of("RIFF\0\0\0\0WEBPVP8 \0\0\0\0EXIF\xff\xff\xff\xff"sv);
    EXPECT_EQ(title_of(lying), "");
}

TEST(Titles, FontsSayTheirNames) {
    const auto names = [](unsigned platform, std::string_view name) {
        ByteVector table;
        for (const std::uint64_t n : {std::uint64_t{0}, std::uint64_t{1}, std::uint64_t{18},
                                      std::uint64_t{platform}, std::uint64_t{0}, std::uint64_t{0},
                                      std::uint64_t{4}, std::uint64_t{name.size()}, std::uint64_t{0}})
            test::append_number(table, n, 2, true);
        test::append(table, name);
        return table;
    };
    EXPECT_EQ(title_of(test::font_file(false, names(1, "Candlewick Bold"))), "Candlewick Bold");
    EXPECT_EQ(title_of(test::font_file(true, names(3, std::string_view("\0O\0w\0l", 6)))), "Owl");
    EXPECT_EQ(title_of(test::woff_file(names(1, "Candlewick Bold"))), "Candlewick Bold");
    EXPECT_EQ(title_of(test::font_file()), "");
}

}  // namespace undershelf::content
