// Texts, pages and mail: what tells them, and what they cannot be.

#include <gtest/gtest.h>

#include "content/formats.hpp"
#include "content/text/mail.hpp"
#include "content/text/markup.hpp"
#include "content/text/text.hpp"
#include "content/text/xml.hpp"
#include "support/checked.hpp"

namespace undershelf {

namespace {

using namespace content;
using test::checked;

ByteVector bytes_of(std::string_view text) {
    return {text.begin(), text.end()};
}
std::string_view format_of(std::string_view text) {
    return checked(bytes_of(text)).format;
}

}  // namespace

TEST(Texts, EachIsToldByHowItBegins) {
    EXPECT_EQ(format_of("A letter to the lantern maker."), "text");
    EXPECT_EQ(format_of("<!-- props -->\n<!DOCTYPE HTML PUBLIC \"-//W3C\">\n<p>Hello"), "html");
    EXPECT_EQ(format_of("<HTML><body>Hello"), "html");
    EXPECT_EQ(format_of("<?xml version='1.0'?><!DOCTYPE html><html><body/></html>"), "html");
    EXPECT_EQ(format_of("<?xml version='1.0'?><s:svg xmlns:s='x'/>"), "svg");
    EXPECT_EQ(format_of("<svg width='4'/>"), "svg");
    EXPECT_EQ(format_of("<cues><cue/></cues>"), "xml");
    EXPECT_EQ(format_of("<<< not markup >>>"), "text");
    EXPECT_EQ(format_of("<cues & props> are a text"), "text");
    EXPECT_EQ(format_of("From: Tilda\nSubject: Cues\n\nHello"), "eml");
    EXPECT_EQ(format_of("\xef\xbb\xbf"
                        "From: Tilda\nSubject: Cues\n\nHello"),
              "eml");
    EXPECT_EQ(format_of("From: here\nto there\n"), "text");
    EXPECT_EQ(format_of("Date: today\nContent-Type: x\n\nof the web"), "text");
    EXPECT_EQ(format_of("From tilda Mon Mar  4 19:30:05 2024\nFrom: Tilda\nTo: Props\n\nHello"), "mbox");
    EXPECT_EQ(format_of("From here on: 2 acts\nare left\n"), "text");
    EXPECT_EQ(format_of("%!PS-Adobe-3.0\n"), "") << "a format of its own, which is not read";
    for (const auto& bytes : {test::utf16_file(false), test::utf16_file(true)}) {
        EXPECT_EQ(checked(bytes).format, "text");
        EXPECT_TRUE(checked(bytes).complete);
        EXPECT_EQ(checked(bytes).strength, Strength::weak);
    }
}

TEST(Texts, WholeOnesHoldToTheirEnd) {
    for (const auto& bytes : {test::html_file(), test::mbox_file(), test::eml_file(), test::text_file(3)}) {
        const auto check = checked(bytes);
        EXPECT_TRUE(check.complete) << check.format << ": " << check.why;
        EXPECT_EQ(check.holds_to, bytes.size()) << check.format;
    }
}

TEST(Texts, AlienBytesEndThem) {
    for (const auto& bytes : {test::text_file(200), test::rtf_file(), test::xml_file(), test::eml_file()}) {
        auto wrong = bytes;
        const auto other = test::png_file();
        const auto at = bytes.size() / 2;
        std::copy_n(other.begin(), 300, wrong.begin() + static_cast<std::ptrdiff_t>(at));
        const auto check = checked(wrong);
        EXPECT_FALSE(check.complete && check.holds_to == bytes.size()) << check.format;
        EXPECT_LE(check.holds_to, at + 100) << check.format;
        EXPECT_GE(check.holds_to + 200, at) << check.format;
    }
}

TEST(Texts, ATextEndsWhereZerosBegin) {
    auto bytes = test::text_file(100);
    const auto end = bytes.size();
    bytes.resize(end + 3000);
    const auto check = checked(bytes);
    EXPECT_FALSE(check.complete);
    EXPECT_EQ(check.holds_to, end);
    EXPECT_EQ(check.why, "the text turns into zeros");
}

TEST(Texts, MarkupOfManyLevelsIsNotFollowed) {
    std::string deep = "<?xml version='1.0'?>";
    for (int i = 0; i < 1'000'000; ++i) deep += "<a>";
    const auto check = checked(bytes_of(deep));
    EXPECT_EQ(check.format, "xml");
    EXPECT_FALSE(check.finished);
    EXPECT_LT(check.holds_to, 20'000u);
}

TEST(Texts, EntitiesThatMultiplyAreNotUnfolded) {
    std::string bomb = "<?xml version='1.0'?><!DOCTYPE a [<!ENTITY e0 'lantern'>";
    for (int i = 1; i < 30; ++i) {
        bomb += "<!ENTITY e" + std::to_string(i) + " '";
        for (int j = 0; j < 20; ++j) bomb += "&e" + std::to_string(i - 1) + ";";
        bomb += "'>";
    }
    EXPECT_FALSE(checked(bytes_of(bomb + "]><a>&e29;</a>")).complete);
}

TEST(Texts, XmlIsReadInTheEncodingThatItStates) {
    const auto page = [](std::string_view name, std::string_view title) {
        return bytes_of("<?xml version='1.0' encoding='" + std::string(name) + "'?><a><title>" +
                        std::string(title) + "</title></a>");
    };
    EXPECT_EQ(checked(page("windows-1251", "\xcf\xf0\xe8\xe2\xe5\xf2")).title, "Привет");
    EXPECT_EQ(checked(page("utf-8", "Se\xc3\xb1or")).title, "Señor");
    const auto unknown = checked(page("Shift_JIS", "\x83\x6e"));
    EXPECT_TRUE(unknown.complete) << unknown.why;
    EXPECT_EQ(unknown.strength, Strength::weak);
    // Bytes that the encoding does not have contradict it.
    EXPECT_FALSE(checked(page("utf-8", "Se\xf1or")).complete);
}

TEST(Texts, MailOfSeveralPartsEndsBehindTheLast) {
    const auto mail = test::eml_file();
    auto more = mail;
    const auto other = test::png_file();
    more.insert(more.end(), other.begin(), other.end());
    auto check = checked(more);
    EXPECT_TRUE(check.complete);
    EXPECT_EQ(check.holds_to, mail.size());
    // A note that a list puts after it is part of it.
    auto noted = mail;
    for (const char c : std::string("-- \r\nprops list\r\n")) noted.push_back(static_cast<std::uint8_t>(c));
    EXPECT_EQ(checked(noted).holds_to, noted.size());
    // What breaks a text may do so on both sides of the bounds that it is read in.
    for (const std::size_t before : {65'535u, 65'536u, 65'600u}) {
        auto long_mail = mail;
        for (std::size_t i = 0; long_mail.size() < before; ++i)
            long_mail.push_back(i % 60 == 59 ? '\n' : 'x');
        long_mail.resize(long_mail.size() + 4096);
        EXPECT_EQ(checked(long_mail).holds_to, mail.size());
    }
    check = checked({mail.begin(), mail.end() - 20});
    EXPECT_FALSE(check.complete);
    EXPECT_TRUE(check.cut);
    EXPECT_EQ(check.strength, Strength::weak);
}

TEST(Texts, LinesOfAnAttachmentAreOfOneKind) {
    auto mail = test::eml_file();
    const auto other = test::text_file(4);
    std::copy(other.begin(), other.end(), mail.begin() + static_cast<std::ptrdiff_t>(mail.size() / 2));
    const auto check = checked(mail);
    EXPECT_FALSE(check.complete);
    EXPECT_LE(check.holds_to, mail.size() / 2);
    EXPECT_GT(check.holds_to + 100, mail.size() / 2);
}

TEST(Texts, SubjectsAreDecoded) {
    EXPECT_EQ(decoded_words("Props =?iso-8859-1?q?Se=F1or_P=2E?= (new)"), "Props Señor P. (new)");
    EXPECT_EQ(decoded_words("=?utf-8?B?w6Q=?= =?utf-8?B?w7Y=?="), "äö");
    EXPECT_EQ(decoded_words("=?utf-8?B?never ends"), "=?utf-8?B?never ends");
    EXPECT_EQ(decoded_words("=?"), "=?");
    EXPECT_EQ(header_field("A: 1\nSubject: two\n  lines\nB: 2\n", "subject"), " two  lines");
    EXPECT_EQ(header_field("A: 1\n\nSubject: in the body\n", "subject"), "");
}

TEST(Texts, TitlesStandInDocuments) {
    EXPECT_EQ(checked(test::html_file()).title, "Candlewick & Lane");
    EXPECT_EQ(checked(test::xml_file()).title, "Cues & props");
    EXPECT_EQ(checked(test::rtf_file()).title, "The Clockmaker’s étude");
    EXPECT_EQ(checked(test::eml_file()).title, "Cues for the third act");
    EXPECT_EQ(checked(test::mbox_file()).title, "Cue 0");
    EXPECT_EQ(without_entities("a &lt;b&gt; &#233;&#x41; &nbsp;&eacute; & c"), "a <b> éA  &eacute; & c");
}

TEST(Texts, CharsetsAreReadWhereTheyAreStated) {
    EXPECT_EQ(stated_charset("<meta charset=\"koi8-r\">"), "koi8-r");
    EXPECT_EQ(stated_charset("Content-Type: text/plain; charset=utf-8\n"), "utf-8");
    EXPECT_EQ(stated_charset("charset=\"\""), "");
    EXPECT_EQ(as_utf8(bytes_of("\xf0\xd2\xc9"), Encoding::eight_bit, "koi8-r"), "При");
    EXPECT_EQ(as_utf8(bytes_of("\x93x\x94"), Encoding::eight_bit, "no such set"), "“x”");
}

TEST(Texts, RtfCountsWhatItPacks) {
    // Braces within counted bytes are none.
    EXPECT_EQ(checked(bytes_of("{\\rtf1 {\\*\\x\\bin4 }}}}y} z}")).holds_to, 27u);
    EXPECT_FALSE(checked(bytes_of("{\\rtf1 {\\b Act}")).complete);
    EXPECT_EQ(checked(bytes_of("{\\rtf1 \\{\\}\\\\}")).holds_to, 14u);
    EXPECT_FALSE(checked(bytes_of("{\\rtf1 \\thiswordislongerthananycontrolwordthereis }")).complete);
}

}  // namespace undershelf
