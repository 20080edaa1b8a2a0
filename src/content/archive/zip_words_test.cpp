#include "content/archive/zip_words.hpp"

#include <gtest/gtest.h>

#include "content/formats.hpp"
#include "support/memory_content.hpp"

namespace undershelf {

namespace {

ByteVector bytes_of(std::string_view text) {
    return {text.begin(), text.end()};
}

std::string words_of(const std::vector<test::ZipMember>& members) {
    test::MemoryContent content(test::zip_file(members));
    std::string out;
    content::zip_words(content, [&](std::string_view piece) {
        out += piece;
        return false;
    });
    std::erase(out, '\r');
    return out;
}

}  // namespace

TEST(ZipWords, OfSlidesComeInTheirOrder) {
    const auto slide = [](const char* text) {
        return bytes_of(std::string("<p:sld><a:p><a:t>") + text + "</a:t></a:p></p:sld>");
    };
    const auto text = words_of({{"ppt/notesSlides/notesSlide1.xml", slide("said")},
                                {"ppt/slides/slide10.xml", slide("last")},
                                {"ppt/slides/slide2.xml", slide("second")},
                                {"ppt/slides/slide1.xml", slide("first")}});
    const auto first = text.find("first"), second = text.find("second"), last = text.find("last"),
               said = text.find("said");
    EXPECT_LT(first, second);
    EXPECT_LT(second, last);
    EXPECT_LT(last, said);
}

TEST(ZipWords, OfABookComeAsItsSpineSays) {
    const auto text =
        words_of({{"mimetype", bytes_of("application/epub+zip"), false},
                  {"OEBPS/a.xhtml", bytes_of("<p>the end</p>")},
                  {"OEBPS/z.xhtml", bytes_of("<p>the curtain</p>")},
                  {"OEBPS/book.opf",
                   bytes_of("<package><manifest><item id='one' href='z.xhtml'/>"
                            "<item href=\"a.xhtml\" id=\"two\"/></manifest>"
                            "<spine><itemref idref='one'/><itemref idref='two'/></spine></package>")}});
    EXPECT_LT(text.find("the curtain"), text.find("the end"));
}

TEST(ZipWords, OfAWorkbookAreRowsOfCells) {
    const auto text = words_of(
        {{"xl/worksheets/sheet10.xml",
          bytes_of("<worksheet><row r='1'><c r='A1'><v>10</v></c></row></worksheet>")},
         {"xl/worksheets/sheet2.xml",
          bytes_of("<worksheet><row r='1'><c r='A1' t='s'><v>1</v></c><c r='B1' t='s'><v>0</v></c></row>"
                   "<row r='2'><c r='A2' t='s'><v>7</v></c><c r='D2' "
                   "t='inlineStr'><is><t>&lt;owl&gt;</t></is></c></row></worksheet>")},
         {"xl/sharedStrings.xml", bytes_of("<sst><si><t>worth</t></si><si><r><t>pro</t></r><r><t>ps</t></r>"
                                           "<rPh><t>spoken</t></rPh></si></sst>")}});
    EXPECT_EQ(text, "props\tworth\n\t\t\t<owl>\n\n10\n\n");
}

TEST(ZipWords, OfBrokenPartsEndQuietly) {
    EXPECT_EQ(words_of({{"xl/worksheets/sheet1.xml",
                         bytes_of("<row><c r='ZZZZZZZZ9' t='s'><v>99999999999999999999</v>")}}),
              "\n");
    EXPECT_NO_THROW(words_of({{"b.opf", bytes_of("<item id='x'><itemref idref='x'><itemref idref=''>")}}));
}

}  // namespace undershelf
