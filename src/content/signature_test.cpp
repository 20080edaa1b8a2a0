#include "content/signature.hpp"

#include <gtest/gtest.h>

#include <set>
#include <string>

#include "content/formats.hpp"
#include "support/memory_content.hpp"

namespace undershelf {

namespace {
FirstBytes compare(const std::string& bytes, std::string_view ext) {
    return compare_with_extension({reinterpret_cast<const std::uint8_t*>(bytes.data()), bytes.size()}, ext);
}
}  // namespace

TEST(Signature, OfAnAliasAgreesWithAnyExtensionItMayHaveHad) {
    const auto docx = test::zip_file({{"word/document.xml", test::libretto(900)}});
    const auto agreement = [](const ByteVector& bytes, std::string_view name) {
        return compare_with_extension(bytes, content_extension(name)).agreement;
    };
    EXPECT_EQ(agreement(docx, "_ETTER~1.DOC"), Agreement::agrees);
    EXPECT_EQ(agreement(test::doc_file(), "LETTER~1.DOC"), Agreement::agrees);
    EXPECT_EQ(agreement(test::jpeg_file(), "POSTE~12.JPE"), Agreement::agrees);
    EXPECT_EQ(agreement(docx, "LETTER.DOC"), Agreement::unknown);
    // No name says of itself that its extension may be longer.
    for (const auto* name : {"letter.doc*", "letter.doc?", "letter.docL", "letter.*", "letter.L"})
        EXPECT_EQ(agreement(docx, name), Agreement::unknown) << name;
    EXPECT_EQ(agreement(test::jpeg_file(), "LETTER~1.DOC"), Agreement::contradicts);
}

TEST(Signature, AgreesWithTheRightExtension) {
    using namespace std::string_literals;
    EXPECT_EQ(compare("\x89PNG\r\n\x1a\n....", "png").agreement, Agreement::agrees);
    EXPECT_EQ(compare("PK\3\4....", "docx").agreement, Agreement::agrees);
    EXPECT_EQ(compare("RIFF....WAVEfmt ", "wav").agreement, Agreement::agrees);
    EXPECT_EQ(compare("\0\0\0\x20"
                      "ftypisom"s,
                      "mp4")
                  .agreement,
              Agreement::agrees);
    EXPECT_EQ(compare("<?xml version", "xml").agreement, Agreement::agrees);
    EXPECT_EQ(compare("\xef\xbb\xbf {", "json").agreement, Agreement::agrees);
    EXPECT_EQ(compare_with_extension(test::tar_file(), "tar").agreement, Agreement::agrees);
    // What is inside tells the members of a family apart, not how they begin.
    EXPECT_EQ(compare_with_extension(test::doc_file(), "xls").agreement, Agreement::agrees);
    EXPECT_EQ(compare_with_extension(test::mov_file(), "mp4").agreement, Agreement::agrees);
}

TEST(Signature, GivesTheUsualExtension) {
    const auto usual = [](const std::string& b) {
        return usual_extension({reinterpret_cast<const std::uint8_t*>(b.data()), b.size()});
    };
    EXPECT_EQ(usual("\xff\xd8\xff\xe0 a photo"), "jpg");
    EXPECT_EQ(usual_extension(test::zip_file({{"cue", test::libretto(100)}})), "zip");
    EXPECT_EQ(usual_extension(test::mov_file()), "mov");
    EXPECT_EQ(usual("only words"), "txt");
    EXPECT_EQ(usual("MZ"), "txt");  // two bytes are too little to go by
    EXPECT_EQ(usual(std::string("\0\1\2", 3)), "");
    EXPECT_EQ(usual(""), "");
}

TEST(Signature, ContradictsTheWrongOne) {
    using namespace std::string_literals;
    EXPECT_EQ(compare("\x89PNG\r\n\x1a\n....", "jpg").agreement, Agreement::contradicts);
    EXPECT_EQ(compare("RIFF....WAVEfmt ", "avi").agreement, Agreement::contradicts);
    EXPECT_EQ(compare("only words", "pdf").agreement, Agreement::contradicts);
    EXPECT_EQ(compare("some \0 text"s, "txt").agreement, Agreement::contradicts);
    EXPECT_EQ(compare("%PDF-1.4", "csv").agreement, Agreement::contradicts);
    EXPECT_EQ(compare(std::string(10240, 'x'), "tar").agreement, Agreement::contradicts);
}

TEST(Signature, StaysSilentWhereNothingIsKnown) {
    EXPECT_EQ(compare("anything", "qqq").agreement, Agreement::unknown);
    EXPECT_EQ(compare("anything", "").agreement, Agreement::unknown);
    EXPECT_EQ(compare("", "png").agreement, Agreement::unknown);
    EXPECT_EQ(compare("words", "txt").agreement, Agreement::weakly);
    EXPECT_EQ(compare("words", "db").agreement, Agreement::unknown);
}

TEST(Signature, CompanionsOfAFileDoNotHoldWhatItsExtensionPromises) {
    EXPECT_EQ(content_extension("Poster.PDF"), "pdf");
    EXPECT_EQ(content_extension("$I6GBAXE.docx"), "");
    EXPECT_EQ(content_extension("$R6GBAXE.docx"), "docx");
    EXPECT_EQ(content_extension("$Income of the theatre.xlsx"), "xlsx");
    EXPECT_EQ(content_extension("._poster.jpg"), "");
}

TEST(FormatTable, NamesEveryFormatOnce) {
    std::set<std::string_view> words;
    for (const auto& f : formats()) {
        EXPECT_TRUE(words.insert(f.word).second) << f.word;
        EXPECT_EQ(format_named(f.word), &f);
        EXPECT_TRUE(f.extensions.starts_with(' ') && f.extensions.ends_with(' ')) << f.word;
        // Either a reader knows how it begins, or the table does.
        EXPECT_EQ(f.strength == Strength::none, !f.starts.empty()) << f.word;
        for (const auto& start : f.starts) EXPECT_FALSE(start.magic.empty()) << f.word;
    }
    EXPECT_EQ(format_named("nothing"), nullptr);
}

TEST(Kinds, AreToldByExtension) {
    EXPECT_EQ(kind_of_extension("jpg"), Kind::picture);
    EXPECT_EQ(kind_of_extension("tgz"), Kind::archive);
    EXPECT_EQ(kind_of_extension("nothing"), Kind::other);
    EXPECT_EQ(kind_from_word(word(Kind::mail)), Kind::mail);
    EXPECT_FALSE(kind_from_word("images"));
}

}  // namespace undershelf
