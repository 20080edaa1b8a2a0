#include "content/dates.hpp"

#include <gtest/gtest.h>

#include "content/formats.hpp"
#include "support/memory_content.hpp"

namespace undershelf::content {

namespace {

std::string shown(const MaybeTime& time) {
    return time ? iso8601(*time) : "none";
}

InnerDates dates_in(ByteVector bytes) {
    test::MemoryContent content(std::move(bytes));
    const auto check = check_content(content);
    return check ? content_inside(content, *format_named(check->format)).dates : InnerDates();
}

}  // namespace

TEST(Dates, AreReadAsWritersWriteThem) {
    EXPECT_EQ(shown(time_from_text("2024:03:01 19:30:05")), "2024-03-01T19:30:05");
    EXPECT_EQ(shown(time_from_text("2024:03:01 19:30:05+01:00")), "2024-03-01T19:30:05+01:00");
    EXPECT_EQ(shown(time_from_text("2024-03-01T19:30:05Z")), "2024-03-01T19:30:05Z");
    EXPECT_EQ(shown(time_from_text("2024-03-01T19:30:05.1234567-05:30")), "2024-03-01T19:30:05-05:30");
    EXPECT_EQ(shown(time_from_text("D:20240301193005+01'00'")), "2024-03-01T19:30:05+01:00");
    EXPECT_EQ(shown(time_from_text("D:20240301")), "2024-03-01T00:00:00");
    for (const char* wrong : {"", "2024", "0000:00:00 00:00:00", "2024:02:30 10:00:00", "1904-01-01",
                              "lantern", "2024:03", "9999:12:31 00:00:00"})
        EXPECT_EQ(shown(time_from_text(wrong)), "none") << wrong;
}

TEST(Dates, OfMailMayLackTheDay) {
    EXPECT_EQ(shown(time_from_mail("Fri, 1 Mar 2024 19:30:05 +0100")), "2024-03-01T19:30:05+01:00");
    EXPECT_EQ(shown(time_from_mail("1 Mar 2024 19:30 GMT")), "2024-03-01T19:30:00Z");
    EXPECT_EQ(shown(time_from_mail("tomorrow")), "none");
    EXPECT_EQ(shown(time_from_mail("Fri, 31 Feb 2024 19:30:05 +0100")), "none");
}

TEST(Dates, OfDosAndUnixKnowNone) {
    EXPECT_EQ(shown(time_from_dos(0x5861, 0x9BC2)), "2024-03-01T19:30:04");
    EXPECT_EQ(shown(time_from_dos(0x21, 0)), "none");
    EXPECT_EQ(shown(time_from_dos(0, 0)), "none");
    EXPECT_EQ(shown(time_from_unix(1709321405)), "2024-03-01T19:30:05Z");
    EXPECT_EQ(shown(time_from_unix(0)), "none");
    EXPECT_EQ(shown(time_from_unix(~0ull)), "none");
}

TEST(Dates, StandInDocumentsAndArchives) {
    const auto text = [](std::string_view t) { return ByteVector(t.begin(), t.end()); };
    const auto document = test::zip_file(
        {{"[Content_Types].xml", text("<Types/>")},
         {"word/document.xml", text("<w:document/>")},
         {"docProps/core.xml",
          text("<cp:coreProperties><dcterms:created xsi:type=\"dcterms:W3CDTF\">2023-11-05T08:00:00Z"
               "</dcterms:created><dcterms:modified xsi:type=\"dcterms:W3CDTF\">2024-03-01T19:30:00Z"
               "</dcterms:modified></cp:coreProperties>")}});
    const auto dates = dates_in(document);
    EXPECT_EQ(shown(dates.created), "2023-11-05T08:00:00Z");
    EXPECT_EQ(shown(dates.modified), "2024-03-01T19:30:00Z");
    EXPECT_EQ(dates.where, "in the document's properties");
    auto packed = test::gzip_file(test::libretto(900));
    packed[4] = 0x7D, packed[5] = 0x2A, packed[6] = 0xE2, packed[7] = 0x65;
    EXPECT_EQ(shown(dates_in(packed).modified), "2024-03-01T19:20:29Z");
    const auto mail =
        dates_in(text("From: odile@example.org\r\nTo: workshop@example.org\r\nDate: Fri, 1 Mar 2024 "
                      "19:30:05 +0100\r\nSubject: strings\r\n\r\nMore wire, please.\r\n"));
    EXPECT_EQ(shown(mail.modified), "2024-03-01T19:30:05+01:00");
    EXPECT_TRUE(dates_in(test::gif_file()).empty());
}

}  // namespace undershelf::content
