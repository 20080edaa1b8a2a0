#include "content/details.hpp"

#include <gtest/gtest.h>

#include "content/formats.hpp"
#include "content/media/media_details.hpp"
#include "content/picture/picture_details.hpp"
#include "support/file_parts.hpp"
#include "support/format_cases.hpp"
#include "support/memory_content.hpp"

namespace undershelf::content {

namespace {
using test::append;
using test::append_number;
using test::MemoryContent;

ByteVector text(std::string_view t) {
    return {t.begin(), t.end()};
}
}  // namespace

TEST(Details, OfPicturesAreColumnsAndRows) {
    auto gif = text("GIF89a");
    append_number(gif, 320, 2);
    append_number(gif, 200, 2);
    MemoryContent g(gif);
    EXPECT_EQ(gif_details(g).pixels, "320x200");

    auto png = text(std::string_view("\x89PNG\r\n\x1a\n\0\0\0\x0dIHDR", 16));
    append_number(png, 640, 4, true);
    append_number(png, 480, 4, true);
    MemoryContent p(png);
    EXPECT_EQ(png_details(p).pixels, "640x480");

    auto jpeg = text(std::string_view("\xff\xd8\xff\xe0\0\x04xx\xff\xc2\0\x11\x08", 13));
    append_number(jpeg, 30, 2, true);
    append_number(jpeg, 40, 2, true);
    MemoryContent j(jpeg);
    EXPECT_EQ(jpeg_details(j).pixels, "40x30");

    auto bmp = text("BM");
    append_number(bmp, 0, 12);
    append_number(bmp, 40, 4);
    append_number(bmp, 9, 4);
    append_number(bmp, 0xFFFFFFFB, 4);  // rows from the top down
    MemoryContent b(bmp);
    EXPECT_EQ(bmp_details(b).pixels, "9x5");

    auto lossless = text(std::string_view("RIFF\0\0\0\0WEBPVP8L\x0a\0\0\0\x2f", 21));
    append_number(lossless, 99u | 49u << 14, 4);
    append_number(lossless, 0, 8);
    MemoryContent w(lossless);
    EXPECT_EQ(webp_details(w).pixels, "100x50");
}

TEST(Details, OfNothingAreNone) {
    for (const std::size_t size : {0, 1, 8, 13, 30}) {
        MemoryContent content(ByteVector(size, 0xFF));
        for (const auto& details :
             {gif_details(content), png_details(content), jpeg_details(content), psd_details(content),
              webp_details(content), tiff_details(content), iso_media_details(content),
              matroska_details(content), wav_details(content), avi_details(content), flac_details(content),
              ogg_details(content)})
            EXPECT_FALSE(details.seconds || details.pages || !details.camera.empty()) << size;
    }
    EXPECT_EQ(pixels_in_words(0, 5), "");
    EXPECT_FALSE(play_time(5, 0));
    EXPECT_FALSE(play_time(-1, 1));
    EXPECT_FALSE(play_time(1e300, 1));
    EXPECT_EQ(play_time(3, 2), 1.5);
}

TEST(Details, OfSoundsAreHowLongTheyPlay) {
    auto wav = text(std::string_view("RIFF\0\0\0\0WAVEfmt \x10\0\0\0\1\0\1\0", 24));
    append_number(wav, 8000, 4);
    append_number(wav, 16000, 4);
    append_number(wav, 0x100002, 4);
    append(wav, text("data"));
    append_number(wav, 24000, 4);
    wav.resize(wav.size() + 24000);
    MemoryContent w(wav);
    EXPECT_EQ(wav_details(w).seconds, 1.5);
    // What is missing does not play.
    wav.resize(wav.size() - 8000);
    MemoryContent cut(wav);
    EXPECT_EQ(wav_details(cut).seconds, 1.0);

    auto flac = text(std::string_view("fLaC\0\0\0\x22", 8));
    append_number(flac, 0, 10);
    append_number(flac, std::uint64_t{44100} << 44 | 88200, 8, true);
    flac.resize(42);
    MemoryContent f(flac);
    EXPECT_EQ(flac_details(f).seconds, 2.0);
}

TEST(Details, ComeWithTheCheckOfEveryFormat) {
    std::size_t told = 0;
    for (const auto& c : test::format_cases()) {
        const auto bytes = c.make();
        MemoryContent content(bytes);
        const auto check = check_content(content);
        ASSERT_TRUE(check) << c.format;
        told += !check->details.empty();
        const auto kind = format_named(check->format)->kind;
        if (kind == Kind::picture && !check->details.pixels.empty()) {
            EXPECT_NE(check->details.pixels.find('x'), std::string::npos) << c.format;
        }
        // Cut anywhere they do no harm.
        for (std::size_t size = 1; size < std::min<std::size_t>(bytes.size(), 400); size += 7) {
            MemoryContent part(ByteVector(bytes.begin(), bytes.begin() + static_cast<std::ptrdiff_t>(size)));
            check_content(part);
        }
    }
    EXPECT_GE(told, 13u);
}

}  // namespace undershelf::content
