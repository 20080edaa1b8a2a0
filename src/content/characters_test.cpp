#include "content/characters.hpp"

#include <gtest/gtest.h>

#include <random>

#include "support/memory_content.hpp"

namespace undershelf {

namespace {

using test::libretto;

Bytes view(std::string_view text) {
    return {reinterpret_cast<const std::uint8_t*>(text.data()), text.size()};
}
std::optional<Encoding> encoding(std::string_view text) {
    return encoding_of(view(text));
}
std::optional<std::uint64_t> broken(const ByteVector& bytes, Encoding as) {
    TextScan scan(as);
    // In parts of odd lengths, as any reader may.
    for (std::size_t at = 0; at < bytes.size(); at += 37)
        scan.take(Bytes(bytes).subspan(at, std::min<std::size_t>(37, bytes.size() - at)));
    return scan.broken_at();
}
ByteVector noise(std::size_t size) {
    std::mt19937 random(4);
    ByteVector out(size);
    for (auto& b : out) b = static_cast<std::uint8_t>(random());
    return out;
}
ByteVector joined(ByteVector a, const ByteVector& b) {
    a.insert(a.end(), b.begin(), b.end());
    return a;
}
ByteVector repeated(std::string_view text, int times) {
    ByteVector out;
    for (int i = 0; i < times; ++i) out.insert(out.end(), text.begin(), text.end());
    return out;
}

}  // namespace

TEST(Characters, EncodingsAreToldByTheirBytes) {
    EXPECT_EQ(encoding("The lantern"), Encoding::utf8);
    EXPECT_EQ(encoding("Se\xc3\xb1or Pinwheel"), Encoding::utf8);
    EXPECT_EQ(encoding("\xef\xbb\xbfThe lantern"), Encoding::utf8);
    EXPECT_EQ(encoding("Se\xf1or Pinwheel waits in the wings"), Encoding::eight_bit);
    EXPECT_EQ(encoding_of(test::utf16_file(false)), Encoding::utf16_le);
    EXPECT_EQ(encoding_of(test::utf16_file(true)), Encoding::utf16_be);
    EXPECT_EQ(encoding_of(test::utf16_file(false, false)), Encoding::utf16_le);
    EXPECT_EQ(encoding_of(test::utf16_file(true, false)), Encoding::utf16_be);
    // A character may be cut off where the start ends; a few stray ones are in many a text.
    EXPECT_EQ(encoding("Se\xc3"), Encoding::utf8);
    EXPECT_EQ(encoding_of(joined(repeated("A line of the script.\n", 20), {1})), Encoding::utf8);
    // Cyrillic in a code page: high bytes nearly throughout.
    EXPECT_EQ(encoding_of(repeated("\xcf\xf0\xe8\xe2\xe5\xf2, \xec\xe8\xf0\n", 30)), Encoding::eight_bit);
}

TEST(Characters, OtherDataAreNoText) {
    EXPECT_FALSE(encoding(""));
    EXPECT_FALSE(encoding(std::string_view("\0", 1)));
    EXPECT_FALSE(encoding("\x01\x02\x03 and so on"));
    EXPECT_FALSE(encoding("\xcf\xf0\xe8\xe2\xe5\xf2"));  // too little to tell
    for (const std::size_t size : {40, 400, 4096}) EXPECT_FALSE(encoding_of(noise(size))) << size;
    for (const auto& file : {test::png_file(), test::zip_file({{"a", libretto(900)}}), test::sqlite_file(),
                             test::wav_file(), test::elf_file()})
        EXPECT_FALSE(encoding_of(Bytes(file).first(std::min<std::size_t>(file.size(), 4096))));
}

TEST(Characters, OneByteOverAndOverIsNoTextButForALine) {
    EXPECT_FALSE(encoding_of(ByteVector(600, 0xFF)));
    std::string page = "CANDLEWICK LANE\r\n" + std::string(80, '\xCD') +
                       "\r\n\x80"
                       "bgen f\x81"
                       "r zwei\r\n";
    while (page.size() < 600) page += page;
    EXPECT_EQ(encoding_of(ByteVector(page.begin(), page.end())), Encoding::eight_bit);
    TextScan scan(Encoding::eight_bit);
    EXPECT_TRUE(scan.take(ByteVector(page.begin(), page.end())));
    EXPECT_FALSE(scan.take(ByteVector(600, 0xFF)));
    EXPECT_EQ(scan.broken_at(), page.size());
}

TEST(Characters, AShortTextMayHaveZerosBehindItsEnd) {
    auto text = repeated("Props\n", 4);
    text.resize(512);
    EXPECT_EQ(encoding_of(text), Encoding::utf8);
    TextScan scan(Encoding::utf8);
    EXPECT_FALSE(scan.take(text));
    EXPECT_EQ(scan.broken_at(), 24u);
    EXPECT_TRUE(scan.turns_into_zeros());
    text[300] = 'x';
    EXPECT_FALSE(encoding_of(text));
}

TEST(Characters, WhereATextTurnsIntoOtherDataItBreaks) {
    const auto text = test::text_file(200);
    EXPECT_FALSE(broken(text, Encoding::utf8));
    const auto at = broken(joined(text, noise(4096)), Encoding::utf8);
    ASSERT_TRUE(at);
    EXPECT_GE(*at, text.size());
    EXPECT_LT(*at, text.size() + 64);
    // So it does where it goes on in another encoding, which plain ASCII before would not tell.
    const auto cyrillic = repeated("\xcf\xf0\xe8\xe2\xe5\xf2, \xec\xe8\xf0\n", 300);
    EXPECT_TRUE(broken(joined(text, cyrillic), Encoding::utf8));
    EXPECT_FALSE(broken(joined(repeated("Plain ASCII.\n", 400), cyrillic), Encoding::utf8));
    // One stray byte, here and there, does not.
    auto strays = text;
    for (std::size_t i = 400; i < strays.size(); i += 300) strays[i] = 1;
    EXPECT_FALSE(broken(strays, Encoding::utf8));
}

TEST(Characters, UnitsOfUtf16TellOtherScripts) {
    for (const bool big_endian : {false, true}) {
        const auto text = test::utf16_file(big_endian);
        const auto as = big_endian ? Encoding::utf16_be : Encoding::utf16_le;
        EXPECT_FALSE(broken(text, as));
        for (const auto& other : {noise(4096), test::text_file(60), ByteVector(4096)}) {
            const auto at = broken(joined(text, other), as);
            ASSERT_TRUE(at);
            EXPECT_GE(*at + 2, text.size());
            EXPECT_LT(*at, text.size() + 600);
        }
    }
}

}  // namespace undershelf
