#include "preview/drawings.hpp"

#include <arpa/inet.h>
#include <gmock/gmock.h>
#include <gtest/gtest.h>
#include <sys/socket.h>
#include <unistd.h>
#include <zlib.h>

#include <boost/endian/buffers.hpp>
#include <cstdlib>
#include <filesystem>
#include <fstream>
#include <iterator>
#include <map>
#include <nlohmann/json.hpp>

#include "content/formats.hpp"
#include "support/format_cases.hpp"
#include "support/memory_content.hpp"
#include "support/temporary_folder.hpp"

namespace undershelf {

namespace {

using test::MemoryContent;
using ::testing::AnyOf;
using ::testing::HasSubstr;

ByteVector bytes_of(std::string_view text) {
    return {text.begin(), text.end()};
}

std::uint32_t big32(std::string_view file, std::size_t at) {
    return load<boost::endian::big_uint32_buf_t>(
               Bytes(reinterpret_cast<const std::uint8_t*>(file.data()), file.size()), at)
        ->value();
}
std::uint32_t width_of(std::string_view png) {
    return big32(png, 16);
}
std::uint32_t height_of(std::string_view png) {
    return big32(png, 20);
}

Drawings& drawings() {
    static Drawings all;
    return all;
}

struct Seen {
    Drawn drawn;
    std::string file;
};
Seen draw(ByteVector bytes, std::string_view format, std::uint32_t pixels = 128) {
    Seen out;
    MemoryContent content(std::move(bytes));
    out.drawn = drawings().content(content, format_named(format), {.pixels = pixels}, out.file);
    return out;
}

/// By format: the tests' own, and those in a folder that the environment names.
std::map<std::string, std::vector<ByteVector>> whole_contents() {
    std::map<std::string, std::vector<ByteVector>> out;
    for (const auto& c : test::format_cases()) out[std::string(c.format)].push_back(c.make());
    const char* const folder = std::getenv("UNDERSHELF_BROKEN_FILES");
    if (!folder) return out;
    constexpr std::size_t most = 20, longest = 4 << 20;
    for (const auto& file : std::filesystem::recursive_directory_iterator(folder)) {
        if (!file.is_regular_file() || file.file_size() > longest) continue;
        std::ifstream in(file.path(), std::ios::binary);
        ByteVector bytes{std::istreambuf_iterator<char>(in), {}};
        const auto* format = format_of_start(Bytes(bytes).first(std::min<std::size_t>(bytes.size(), 4096)));
        if (format && out[std::string(format->word)].size() < most)
            out[std::string(format->word)].push_back(std::move(bytes));
    }
    return out;
}

/// A PNG file of one colour a row: `rows` of `width` pixels.
ByteVector striped_png(std::uint32_t width, std::uint32_t height, std::uint32_t rows_there, int level = 1) {
    ByteVector out = bytes_of(std::string_view("\x89PNG\r\n\x1a\n", 8));
    const auto chunk = [&](const char* type, const ByteVector& body) {
        ByteVector named(type, type + 4);
        named.insert(named.end(), body.begin(), body.end());
        const auto put = [&](std::uint32_t n) {
            for (const int shift : {24, 16, 8, 0}) out.push_back(static_cast<std::uint8_t>(n >> shift));
        };
        put(static_cast<std::uint32_t>(body.size()));
        out.insert(out.end(), named.begin(), named.end());
        put(static_cast<std::uint32_t>(crc32(0, named.data(), static_cast<uInt>(named.size()))));
    };
    ByteVector head;
    for (const auto n : {width, height})
        for (const int shift : {24, 16, 8, 0}) head.push_back(static_cast<std::uint8_t>(n >> shift));
    head.insert(head.end(), {8, 0, 0, 0, 0});  // grey of eight bits
    chunk("IHDR", head);
    ByteVector rows(std::size_t{rows_there} * (width + 1), 200);
    for (std::size_t y = 0; y < rows_there; ++y) rows[y * (width + 1)] = 0;
    ByteVector packed(compressBound(rows.size()));
    auto length = static_cast<uLongf>(packed.size());
    compress2(packed.data(), &length, rows.data(), rows.size(), level);
    packed.resize(length);
    chunk("IDAT", packed);
    if (rows_there == height) chunk("IEND", {});
    return out;
}

}  // namespace

TEST(Drawings, ShowWhatThereIsOfEachFormatOrSayWhyNot) {
    // Of these the test's own files have nothing inside that decodes: noise, heads alone, or no text.
    for (const auto& c : test::format_cases()) {
        SCOPED_TRACE(c.format);
        const auto seen = draw(c.make(), c.format);
        if (seen.drawn.shows == Shows::nothing) {
            EXPECT_TRUE(seen.file.empty());
            EXPECT_FALSE(seen.drawn.why.empty());
            continue;
        }
        ASSERT_GT(seen.file.size(), 24u);
        EXPECT_LE(std::max(width_of(seen.file), height_of(seen.file)), 128u);
    }
    for (const auto* word :
         {"png",    "gif", "jpeg", "webp", "tiff", "bmp", "psd", "ico", "wav", "zip", "tar",
          "sqlite", "elf", "pe",   "text", "html", "rtf", "eml", "7z",  "cab", "gzip"}) {
        SCOPED_TRACE(word);
        const auto& all = test::format_cases();
        const auto it = std::find_if(all.begin(), all.end(), [&](const auto& c) { return c.format == word; });
        if (it == all.end()) continue;
        EXPECT_NE(draw(it->make(), word).drawn.shows, Shows::nothing);
    }
}

TEST(Drawings, OfBrokenContentsAreCardsAtMost) {
    // With UNDERSHELF_BROKEN_DRAWINGS=1000 in the environment so many of each; with
    // UNDERSHELF_BROKEN_FILES=FOLDER of the files there as well.
    const char* const asked = std::getenv("UNDERSHELF_BROKEN_DRAWINGS");
    const int many = asked ? std::atoi(asked) : 6;
    auto random = test::random_numbers(7);
    for (const auto& [format, all] : whole_contents()) {
        SCOPED_TRACE(format);
        for (int i = 0; i < many; ++i) {
            auto broken = all[static_cast<std::size_t>(i) % all.size()];
            if (i % 2) broken.resize(broken.size() * (1 + random() % 90) / 100);
            for (int changed = 0; changed < 4 && !broken.empty(); ++changed)
                broken[random() % broken.size()] = static_cast<std::uint8_t>(random());
            const auto seen = draw(broken, format);
            EXPECT_EQ(seen.file.empty(), seen.drawn.shows == Shows::nothing);
        }
    }
}

TEST(Drawings, AreNotMisledByALengthThatIsNotThere) {
    // A sound of a quarter of a second that says it has hours, in each of the fields that say so.
    const auto& all = test::format_cases();
    const auto wav =
        std::find_if(all.begin(), all.end(), [](const auto& c) { return c.format == "wav"; })->make();
    const auto honest = draw(wav, "wav");
    ASSERT_NE(honest.drawn.shows, Shows::nothing);
    for (const std::string_view field : {"RIFF", "data"}) {
        auto lies = wav;
        const auto at = std::search(lies.begin(), lies.end(), field.begin(), field.end()) - lies.begin();
        std::fill_n(lies.begin() + at + 4, 4, std::uint8_t{0x7F});
        EXPECT_EQ(draw(lies, "wav").drawn.shows, honest.drawn.shows) << field;
    }
    // A film that says it has more pictures, and longer ones, than could ever be.
    const auto mov =
        std::find_if(all.begin(), all.end(), [](const auto& c) { return c.format == "mov"; })->make();
    const auto shown = draw(mov, "mov").drawn.shows;
    for (const std::string_view field : {"mvhd", "mdhd", "tkhd", "stts", "stsz", "stsc", "mdat"}) {
        auto lies = mov;
        const auto at = std::search(lies.begin(), lies.end(), field.begin(), field.end()) - lies.begin();
        ASSERT_LT(static_cast<std::size_t>(at), lies.size()) << field;
        const auto from = lies.begin() + at + (field == "mdat" ? -4 : 8),
                   to = from + (field == "mdat" ? 4 : 16);
        std::fill(from, std::min(to, lies.end()), std::uint8_t{0x7F});
        const auto seen = draw(lies, "mov");
        EXPECT_THAT(seen.drawn.shows, AnyOf(shown, Shows::nothing)) << field;
        EXPECT_EQ(seen.file.empty(), seen.drawn.shows == Shows::nothing) << field;
    }
}

TEST(Drawings, ShowADamagedPictureAsFarAsItHolds) {
    const auto seen = draw(striped_png(64, 100, 75), "png");
    EXPECT_EQ(seen.drawn.shows, Shows::part);
    EXPECT_NEAR(seen.drawn.share, 0.75, 0.02);
    EXPECT_EQ(seen.drawn.width, 64u);
    EXPECT_EQ(seen.drawn.height, 100u);
    EXPECT_EQ(width_of(seen.file), 64u);
    EXPECT_EQ(draw(striped_png(64, 100, 100), "png").drawn.shows, Shows::whole);
}

TEST(Drawings, AreAsLargeAsIsWishedAndNoLarger) {
    const auto large = draw(striped_png(900, 300, 300), "png", 90);
    EXPECT_EQ(width_of(large.file), 90u);
    EXPECT_EQ(height_of(large.file), 30u);
    const auto small = draw(striped_png(20, 10, 10), "png", 90);
    EXPECT_EQ(width_of(small.file), 20u);
}

TEST(Drawings, GiveUpOnPicturesThatNobodyCanHave) {
    // Rows are read one after the other: what is not there is hatched, and no memory is taken for it.
    const auto seen = draw(striped_png(60'000, 60'000, 200), "png", 60);
    EXPECT_THAT(seen.drawn.shows, AnyOf(Shows::part, Shows::nothing));
    // Interlaced ones would have to be in memory.
    auto interlaced = striped_png(60'000, 60'000, 1);
    interlaced[28] = 1;
    const auto sum = crc32(0, interlaced.data() + 12, 17);
    for (int i = 0; i < 4; ++i)
        interlaced[static_cast<std::size_t>(29 + i)] = static_cast<std::uint8_t>(sum >> (24 - 8 * i));
    const auto refused = draw(interlaced, "png", 60);
    EXPECT_EQ(refused.drawn.shows, Shows::nothing);
    EXPECT_THAT(refused.drawn.why, HasSubstr("too large"));
}

TEST(Drawings, OpenNothingThatAPictureNames) {
    const test::TemporaryFolder folder;
    const auto red = striped_png(40, 40, 40);
    folder.write("red.png", red);
    const int listener = ::socket(AF_INET, SOCK_STREAM | SOCK_NONBLOCK, 0);
    sockaddr_in here{};
    here.sin_family = AF_INET;
    here.sin_addr.s_addr = htonl(INADDR_LOOPBACK);
    socklen_t length = sizeof here;
    ASSERT_EQ(::bind(listener, reinterpret_cast<sockaddr*>(&here), sizeof here), 0);
    ASSERT_EQ(::listen(listener, 4), 0);
    ::getsockname(listener, reinterpret_cast<sockaddr*>(&here), &length);
    const auto url = "http://127.0.0.1:" + std::to_string(ntohs(here.sin_port)) + "/red.png";
    const auto picture = [&](const std::string& wanted) {
        return bytes_of(
            R"(<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink" width="40" height="40">)"
            R"(<rect width="40" height="40" fill="#ffffff"/><image width="40" height="40" xlink:href=")" +
            wanted + R"("/></svg>)");
    };
    const auto plain = draw(picture("#nothing"), "svg");
    ASSERT_NE(plain.drawn.shows, Shows::nothing);
    for (const auto& wanted :
         {folder.path().string() + "/red.png", "file://" + folder.path().string() + "/red.png", url})
        EXPECT_EQ(draw(picture(wanted), "svg").file, plain.file) << wanted;
    EXPECT_LT(::accept(listener, nullptr, nullptr), 0);
    ::close(listener);
}

TEST(Drawings, DrawPagesAsTheyAreDescribed) {
    const nlohmann::json described{
        {"width", 200},
        {"height", 100},
        {"pages", {{{{"text", "Act 1"}, {"x", 10}, {"y", 10}, {"w", 100}, {"size", 12}}}}}};
    const auto png = drawings().pages(described, {}, {.pixels = 400});
    EXPECT_EQ(width_of(png), 400u);
    EXPECT_EQ(height_of(png), 200u);
    const auto pdf = drawings().pages(described, {}, {.pixels = 400, .form = PictureForm::pdf});
    EXPECT_TRUE(pdf.starts_with("%PDF-"));
    EXPECT_ANY_THROW(drawings().pages({{"width", 1e9}, {"height", 1}, {"pages", {{}}}}, {}, {}));
    EXPECT_ANY_THROW(drawings().pages({{"pages", 1}}, {}, {}));
}

TEST(Drawings, OfNoKnownFormatSayWhy) {
    std::string file;
    MemoryContent content(ByteVector(10, 1));
    const auto drawn = drawings().content(content, nullptr, {}, file);
    EXPECT_EQ(drawn.shows, Shows::nothing);
    EXPECT_FALSE(drawn.why.empty());
}

}  // namespace undershelf
