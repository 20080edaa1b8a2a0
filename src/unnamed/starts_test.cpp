#include "unnamed/starts.hpp"

#include <gtest/gtest.h>

#include "support/memory_content.hpp"

namespace undershelf {

namespace {

/// Contents one after the other, each at the next multiple of `step`.
ByteVector one_after_the_other(const std::vector<ByteVector>& contents, std::size_t step = 512) {
    ByteVector out;
    for (const auto& c : contents) {
        out.insert(out.end(), c.begin(), c.end());
        out.resize((out.size() + step - 1) / step * step);
    }
    out.resize(out.size() + 4096);
    return out;
}

std::vector<std::string> formats_in(const ByteVector& bytes, std::uint64_t offset = 0) {
    std::vector<std::string> out;
    for (const auto& s : find_starts({bytes, offset, bytes.size()})) out.emplace_back(s.format);
    return out;
}

}  // namespace

TEST(Starts, AreSeenAtSectors) {
    const auto bytes = one_after_the_other({test::png_file(), test::libretto(700), test::wav_file()});
    const auto starts = find_starts({bytes, 1 << 20, bytes.size()});
    ASSERT_EQ(starts.size(), 3u);
    EXPECT_EQ(starts[0].offset, 1u << 20);
    EXPECT_EQ(starts[1].format, "text");
    EXPECT_EQ(starts[2].format, "wav");
    EXPECT_NE(starts[0].print, starts[1].print);
    // Only what is owned is looked at, and only whole sectors of the source.
    EXPECT_EQ(find_starts({bytes, 1 << 20, 512}).size(), 1u);
    EXPECT_TRUE(find_starts({Bytes(bytes).subspan(1), 1, 400}).empty());
}

TEST(Starts, OfTextsAreWhereTheyBegin) {
    // Many sectors of text are one start.
    EXPECT_EQ(formats_in(one_after_the_other({test::libretto(9000)})), std::vector<std::string>{"text"});
    // Another text begins after zeros; what is none, anywhere.
    EXPECT_EQ(formats_in(one_after_the_other({test::libretto(700), test::libretto(700)})),
              (std::vector<std::string>{"text", "text"}));
    const std::string rtf = "{\\rtf1 The lantern maker}";
    EXPECT_EQ(formats_in(one_after_the_other({test::libretto(1024), {rtf.begin(), rtf.end()}})),
              (std::vector<std::string>{"text", "rtf"}));
}

TEST(Starts, OfDocumentsMayBreakALineOfAnotherText) {
    const auto behind = [](const std::string& document) {
        auto bytes = test::libretto(1024);
        bytes.back() = 'f';
        bytes.insert(bytes.end(), document.begin(), document.end());
        bytes.resize(bytes.size() + 4096);
        return find_starts({bytes, 0, bytes.size()});
    };
    const std::string
        page = "<!DOCTYPE html><html><p>Cues</p></html>\n",
        mail = "From: odile@example.org\nTo: workshop@example.org\nSubject: wire\n\nMore, please.\n";
    for (const auto& document : {page, mail}) {
        const auto starts = behind(document);
        ASSERT_EQ(starts.size(), 2u) << document;
        EXPECT_EQ(starts[1].offset, 1024u);
        EXPECT_TRUE(starts[1].breaks_a_line);
        EXPECT_FALSE(starts[0].breaks_a_line);
    }
    // Lines of a page, and of a message's head, are no documents.
    EXPECT_EQ(behind("<b>Cues</b> and more of them").size(), 1u);
    EXPECT_EQ(behind("eived: by odile\nTo: workshop@example.org\nSubject: wire\n\nMore.\n").size(), 1u);
}

TEST(Starts, AreNotMadeOfFilling) {
    EXPECT_TRUE(formats_in(ByteVector(8192, 0xFF)).empty());
    EXPECT_TRUE(formats_in(ByteVector(8192, ' ')).empty());
    EXPECT_TRUE(formats_in(ByteVector(8192)).empty());
}

TEST(Starts, OfAFilmsPacksAreOne) {
    ByteVector film(16 << 10, 0xFF);
    const ByteVector pack{0, 0, 1, 0xBA, 0x44, 0, 4, 0, 4, 1, 0, 0, 3, 0xF8};
    for (std::size_t at = 0; at < film.size(); at += 2048)
        std::copy(pack.begin(), pack.end(), film.begin() + static_cast<std::ptrdiff_t>(at));
    EXPECT_EQ(formats_in(film), std::vector<std::string>{"mpeg"});
    // The first pack of another film has a system header after its own.
    const ByteVector system{0, 0, 1, 0xBB, 0, 12};
    std::copy(system.begin(), system.end(), film.begin() + 3 * 2048 + 14);
    EXPECT_EQ(formats_in(film), (std::vector<std::string>{"mpeg", "mpeg"}));
}

}  // namespace undershelf
