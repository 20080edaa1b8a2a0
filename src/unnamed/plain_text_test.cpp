#include "unnamed/plain_text.hpp"

#include <gtest/gtest.h>

#include "support/memory_content.hpp"

namespace undershelf {

namespace {
ByteVector bytes_of(std::string_view text) {
    return {text.begin(), text.end()};
}
}  // namespace

TEST(PlainText, HasTheVarietyOfLanguage) {
    EXPECT_TRUE(reads_as_text(test::libretto(512)));
    EXPECT_FALSE(reads_as_text(ByteVector(512, 0xFF)));
    ByteVector table(512);
    for (std::size_t i = 0; i < table.size(); ++i) table[i] = i % 2 ? 'U' : 'V';
    EXPECT_FALSE(reads_as_text(table));
    std::string wide;
    for (const char c : std::string("The lantern maker of Candlewick Lane keeps a ledger."))
        wide += {c, '\0'};
    EXPECT_TRUE(reads_as_text(bytes_of(wide)));
}

TEST(PlainText, DocumentsBeginAsNoPartOfAnotherTextDoes) {
    for (const char* document :
         {"<?xml version=\"1.0\"?>", "<!DOCTYPE html>", "<HTML><body>", "<svg width=\"9\">", "#!/bin/sh\n",
          "From: odile@example.org\nTo: workshop@example.org\nSubject: wire\n\nMore, please.\n"})
        EXPECT_TRUE(begins_a_document(bytes_of(document))) << document;
    // A field that messages have makes no message of a note, nor of a table.
    for (const char* part : {"", "The lantern maker", "html", "Subject: the lantern\nIt wants oil.\n",
                             "To: be mended\nThe fox.\n", "From the workshop, more wire.\n",
                             "Date;Cue;Lamp\n1;2;3\n4;5;6\n", "{\"From\": 1}"})
        EXPECT_FALSE(begins_a_document(bytes_of(part))) << part;
}

TEST(PlainText, BeginsAsSentencesAndTablesDo) {
    EXPECT_TRUE(begins_as_text(bytes_of("The lantern maker")));
    EXPECT_TRUE(begins_as_text(bytes_of("# Cue sheet")));
    EXPECT_TRUE(begins_as_text(bytes_of("{\"act\": 1}")));
    EXPECT_TRUE(begins_as_text(bytes_of("1;lantern;12\n2;rope;4\n3;wax;1\n4;oak;2\n5;tin;9\n")));
    EXPECT_FALSE(begins_as_text(bytes_of("antern maker")));
    EXPECT_FALSE(begins_as_text(bytes_of(", and leaves")));
    // Half a row before rows that have all their fields.
    EXPECT_FALSE(begins_as_text(bytes_of("12;4\n2;rope;4\n3;wax;1\n4;oak;2\n5;tin;9\n")));
    EXPECT_FALSE(begins_as_text({}));
}

}  // namespace undershelf
