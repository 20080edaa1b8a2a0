#include "content/words.hpp"

#include <fmt/format.h>
#include <gtest/gtest.h>

#include "base/text.hpp"
#include "content/document/pdf_objects.hpp"
#include "content/formats.hpp"
#include "support/file_parts.hpp"
#include "support/memory_content.hpp"

namespace undershelf {

namespace {

using namespace content;
using test::append;
using test::append_number;

ByteVector bytes_of(std::string_view text) {
    return {text.begin(), text.end()};
}
std::string words_of(const ByteVector& bytes) {
    BytesAsContent content(bytes);
    std::string out;
    content_text(content, [&](std::string_view piece) {
        out += piece;
        return false;
    });
    return out;
}
bool holds(const ByteVector& bytes, std::string_view words) {
    BytesAsContent content(bytes);
    const WordSearch search(words);
    WordSearch::Text text(search);
    content_text(content, [&](std::string_view piece) { return text.take(piece); });
    return text.all_found();
}

/// A PDF of one page that shows `operators`, with a font /F1 whose codes mean what `cmap` says.
ByteVector pdf_showing(const std::string& operators, const std::string& cmap = {}, bool in_stream = false) {
    std::string out = "%PDF-1.5\n";
    const auto add = [&](int number, const std::string& dictionary, const std::string& data) {
        const auto packed = test::deflated({data.begin(), data.end()}, MAX_WBITS);
        out += fmt::format("{} 0 obj\n<< {} /Filter /FlateDecode /Length {} >>\nstream\n", number, dictionary,
                           packed.size());
        out.append(packed.begin(), packed.end());
        out += "\nendstream\nendobj\n";
    };
    add(1, "", operators);
    if (!cmap.empty()) add(2, "", cmap);
    const std::string font = "<< /Type /Font /ToUnicode 2 0 R >>", page = "<< /Font << /F1 3 0 R >> >>";
    if (in_stream) {
        const auto numbers = fmt::format("3 0 4 {} ", font.size());
        add(5, fmt::format("/Type /ObjStm /N 2 /First {}", numbers.size()), numbers + font + page);
    } else {
        out += "3 0 obj\n" + font + "\nendobj\n4 0 obj\n" + page + "\nendobj\n";
    }
    return bytes_of(out);
}

}  // namespace

TEST(Words, AreFoundWhateverTheirCaseAndAccents) {
    EXPECT_EQ(searchable("Señor ÖDÖN Straße"), "senor odon strasse");
    EXPECT_EQ(searchable("Plain TEXT"), "plain text");
    const auto text = bytes_of("The lantern goes up, Se\xc3\xb1or Pinwheel waits.");
    EXPECT_TRUE(holds(text, "senor LANTERN"));
    EXPECT_TRUE(holds(text, "señor"));
    EXPECT_FALSE(holds(text, "lantern thunder"));
    EXPECT_EQ(WordSearch("  ").size(), 0u);
}

TEST(Words, StandAcrossTheWindowsOfALongText) {
    std::string text;
    while (text.size() < 300'000) text += "curtain rope ";
    for (const std::size_t at : {65'530u, 131'070u, 200'000u}) {
        auto one = text;
        one.replace(at, 9, " pinwheel");
        EXPECT_TRUE(holds(bytes_of(one), "pinwheel")) << at;
    }
    // One without any spaces is given out all the same.
    EXPECT_EQ(words_of(bytes_of(std::string(300'000, 'x'))).size(), 300'000u);
}

TEST(Words, OfTextsAreInTheirEncoding) {
    EXPECT_TRUE(holds(test::utf16_file(false), "pinwheel lantern"));
    EXPECT_TRUE(holds(bytes_of("<meta charset=koi8-r><p>\xf0\xd2\xc9\xd7\xc5\xd4"), "привет"));
    std::string cyrillic;
    for (int i = 0; i < 40; ++i)
        cyrillic +=
            "\xcf\xf0\xe8\xe2\xe5\xf2, \xfd\xf2\xee \xf1\xf2\xe0\xf0\xee\xe5 \xef\xe8\xf1\xfc\xec\xee\n";
    EXPECT_TRUE(holds(bytes_of(cyrillic), "письмо")) << "nothing states it, but its letters tell";
}

TEST(Words, OfMarkupAreWithoutTags) {
    const auto page = bytes_of(
        "<!DOCTYPE html><html><head><style>p { lantern: 1 }</style><script>var thunder = "
        "'<p>';</script></head>"
        "<body><p>cur<b>tain</b></p><p>rope &amp; bow</p></body></html>");
    EXPECT_TRUE(holds(page, "curtain rope bow"));
    EXPECT_FALSE(holds(page, "lantern"));
    EXPECT_FALSE(holds(page, "thunder"));
    EXPECT_FALSE(holds(page, "curtainrope"));
    EXPECT_TRUE(holds(test::xml_file(), "props lantern"));
    EXPECT_TRUE(holds(bytes_of("<p>bow &never ends"), "bow"));
}

TEST(Words, OfRtfAreWithoutItsFonts) {
    const auto words = words_of(test::rtf_file());
    EXPECT_NE(words.find("Act 7"), std::string::npos);
    EXPECT_EQ(words.find("Times"), std::string::npos);
    EXPECT_EQ(words.find("0123456789abcdef"), std::string::npos);
    EXPECT_NE(words_of(bytes_of("{\\rtf1\\ansicpg1251 {\\*\\x hidden}\\'cf\\'f0\\u233?tude\\par next}"))
                  .find("Прétude\nnext"),
              std::string::npos);
    EXPECT_EQ(words_of(bytes_of("{\\rtf1 \\bin5 abcdefgh}")), "fgh");
}

TEST(Words, OfMailAreUnpacked) {
    EXPECT_TRUE(holds(test::eml_file(), "third act list below"));
    EXPECT_FALSE(holds(test::eml_file(), "iVBORw0KGgo")) << "an attachment";
    EXPECT_TRUE(holds(test::mbox_file(), "lantern cue"));
    const auto mail = bytes_of(
        "From: a\nTo: b\nContent-Type: text/plain; charset=utf-8\nContent-Transfer-Encoding: "
        "quoted-printable\n\n"
        "Se=C3=B1or Pin=\nwheel\n");
    EXPECT_TRUE(holds(mail, "señor pinwheel"));
    const auto packed = bytes_of(
        "From: a\nTo: b\nContent-Type: text/html\nContent-Transfer-Encoding: base64\n\n"
        "PHA+VGhlIGxhbnRlcm48L3A+\n");
    EXPECT_TRUE(holds(packed, "lantern"));
}

TEST(Words, OfOfficeDocumentsAreInTheirMembers) {
    const auto document =
        test::zip_file({{"[Content_Types].xml", bytes_of("<Types>types</Types>")},
                        {"word/styles.xml", bytes_of("<w:styles>Heading</w:styles>")},
                        {"word/document.xml", bytes_of("<w:p><w:r><w:t>lan</w:t></w:r><w:r><w:t>"
                                                       "tern</w:t></w:r></w:p><w:p>up</w:p>")}});
    EXPECT_TRUE(holds(document, "lantern up"));
    EXPECT_FALSE(holds(document, "lanternup"));
    EXPECT_FALSE(holds(document, "heading"));
    EXPECT_TRUE(holds(test::zip_file({{"act 1.txt", test::libretto(900)}}), words_of(test::libretto(20))));
}

TEST(Words, OfPresentationsAndSheetsAreInTheirRecords) {
    const auto record = [](unsigned type, const ByteVector& data) {
        ByteVector out;
        append_number(out, 0, 2);
        append_number(out, type, 2);
        append_number(out, data.size(), 4);
        append(out, data);
        return out;
    };
    ByteVector slides;
    while (slides.size() < 4200) {
        append(slides, record(0x0FA8, bytes_of("thunder sheet")));
        append(slides, record(0x0FA0, bytes_of(std::string_view("b\0o\0w\0", 6))));
        append(slides, record(0x1111, bytes_of("lantern")));
    }
    EXPECT_TRUE(holds(test::compound_file({{"PowerPoint Document", slides}}), "thunder bow"));
    EXPECT_FALSE(holds(test::compound_file({{"PowerPoint Document", slides}}), "lantern"));
    // Shared strings, the second of which goes on, wide, in the next record.
    ByteVector sheet, strings, more;
    append_number(strings, 0, 8);
    for (const auto& [text, all] : {std::pair{"curtain", 7}, {"pin", 8}}) {
        append_number(strings, static_cast<std::uint64_t>(all), 2);
        append_number(strings, 0, 1);
        append(strings, std::string_view(text));
    }
    append_number(more, 1, 1);
    append(more, std::string_view("w\0h\0e\0e\0l\0", 10));
    for (const auto& [type, data] :
         {std::pair<unsigned, ByteVector>{0x0809, ByteVector(16)}, {0xFC, strings}, {0x3C, more}}) {
        append_number(sheet, type, 2);
        append_number(sheet, data.size(), 2);
        append(sheet, data);
    }
    sheet.resize(5000);
    EXPECT_TRUE(holds(test::compound_file({{"Workbook", sheet}}), "curtain pinwheel"));
}

TEST(Words, OfAPdfAreWhatItsPagesShow) {
    const auto plain =
        pdf_showing("BT /F9 12 Tf (The lan\\164ern) Tj 0 -14 Td [(go) 20 (es) -400 (up)] TJ ET");
    EXPECT_TRUE(holds(plain, "lantern goes up"));
    EXPECT_FALSE(holds(plain, "goesup"));
    const std::string cmap =
        "1 begincodespacerange <0000> <FFFF> endcodespacerange 1 beginbfchar <0003> <0020> endbfchar\n"
        "2 beginbfrange <0010> <0012> <0061> <0020> <0021> [<00F1> <006F>] endbfrange";
    for (const bool in_stream : {false, true}) {
        const auto coded = pdf_showing("BT /F1 9 Tf <001000110012000300200021> Tj ET", cmap, in_stream);
        EXPECT_TRUE(holds(coded, "abc ño")) << in_stream;
    }
    // Codes that nothing explains, and what stops in the middle.
    EXPECT_EQ(words_of(pdf_showing("BT /F1 9 Tf <0999> Tj (never ends", cmap)).find("abc"),
              std::string::npos);
    EXPECT_EQ(words_of(bytes_of("%PDF-1.4\n1 0 obj << /ToUnicode 1 0 R >> stream")), "");
}

TEST(Words, EnoughIsEnough) {
    for (const auto& bytes :
         {test::text_file(9000), test::eml_file(), test::rtf_file(), test::xml_file("a", 9000)}) {
        BytesAsContent content(bytes);
        int pieces = 0;
        content_text(content, [&](std::string_view) { return ++pieces > 0; });
        EXPECT_EQ(pieces, 1);
    }
}

}  // namespace undershelf
