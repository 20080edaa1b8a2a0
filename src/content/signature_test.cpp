#include "content/signature.hpp"

#include <gtest/gtest.h>

#include <string>

#include "content/kinds.hpp"

namespace undershelf {

namespace {
FirstBytes compare(const std::string& bytes, std::string_view ext) {
    return compare_with_extension({reinterpret_cast<const std::uint8_t*>(bytes.data()), bytes.size()}, ext);
}
}  // namespace

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
    EXPECT_EQ(compare(std::string(257, 'x') + "ustar\0"s, "tar").agreement, Agreement::agrees);
}

TEST(Signature, GivesTheUsualExtension) {
    const auto usual = [](const std::string& b) {
        return usual_extension({reinterpret_cast<const std::uint8_t*>(b.data()), b.size()});
    };
    EXPECT_EQ(usual("\xff\xd8\xff\xe0 a photo"), "jpg");
    EXPECT_EQ(usual("PK\3\4...."), "zip");
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
}

TEST(Signature, StaysSilentWhereNothingIsKnown) {
    EXPECT_EQ(compare("anything", "qqq").agreement, Agreement::unknown);
    EXPECT_EQ(compare("anything", "").agreement, Agreement::unknown);
    EXPECT_EQ(compare("", "png").agreement, Agreement::unknown);
    EXPECT_EQ(compare("words", "txt").agreement, Agreement::weakly);
    EXPECT_EQ(compare("words", "db").agreement, Agreement::unknown);
}

TEST(Kinds, AreToldByExtension) {
    EXPECT_EQ(kind_of_extension("jpg"), Kind::picture);
    EXPECT_EQ(kind_of_extension("tgz"), Kind::archive);
    EXPECT_EQ(kind_of_extension("nothing"), Kind::other);
    EXPECT_EQ(kind_from_word(word(Kind::mail)), Kind::mail);
    EXPECT_FALSE(kind_from_word("images"));
}

}  // namespace undershelf
