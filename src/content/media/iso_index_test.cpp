#include "content/media/iso_index.hpp"

#include <gtest/gtest.h>

#include "content/format.hpp"
#include "content/formats.hpp"
#include "support/file_parts.hpp"
#include "support/memory_content.hpp"

namespace undershelf::content {

namespace {

using test::MemoryContent;

/// Where a box's type is.
std::size_t place_of(const ByteVector& bytes, std::string_view type) {
    const auto it = std::search(bytes.begin(), bytes.end(), type.begin(), type.end());
    EXPECT_NE(it, bytes.end()) << type;
    return static_cast<std::size_t>(it - bytes.begin());
}

Check checked(ByteVector bytes) {
    MemoryContent content(std::move(bytes));
    return check_content(content).value_or(Check());
}

}  // namespace

TEST(IsoBoxes, HeadsAreReadInBothSizes) {
    EXPECT_FALSE(box_head({}));
    const auto head = [](std::initializer_list<std::uint8_t> bytes) {
        const ByteVector all(bytes);
        return box_head(all);
    };
    EXPECT_EQ(head({0, 0, 0, 8, 'f', 'r', 'e', 'e'})->size, 8u);
    EXPECT_FALSE(head({0, 0, 0, 7, 'f', 'r', 'e', 'e'}));
    EXPECT_FALSE(head({0, 0, 0, 1, 'm', 'd', 'a', 't'}));
    const auto wide = head({0, 0, 0, 1, 'm', 'd', 'a', 't', 0, 0, 0, 1, 0, 0, 0, 0});
    EXPECT_EQ(wide->size, 1ull << 32);
    EXPECT_EQ(wide->head, 16u);
    EXPECT_FALSE(head({0, 0, 0, 1, 'm', 'd', 'a', 't', 0, 0, 0, 0, 0, 0, 0, 15}));
}

TEST(IsoBoxes, AListEndsWhereABoxLeavesItsParent) {
    ByteVector body;
    for (int i = 0; i < 2; ++i) {
        test::append_number(body, 8, 4, true);
        test::append(body, "free");
    }
    EXPECT_EQ(boxes_in(body, 100).boxes.size(), 2u);
    EXPECT_FALSE(boxes_in(body, 100).wrong_at);
    // Four zeros after the last one are QuickTime's.
    body.resize(20);
    EXPECT_FALSE(boxes_in(body, 100).wrong_at);
    test::put_number(body, 8, 9, 4, true);
    body.resize(16);
    EXPECT_EQ(boxes_in(body, 100).wrong_at, 108u);
}

TEST(IsoMedia, TablesThatClaimMoreThanTheyHoldAreWrong) {
    for (const auto* type : {"stsz", "stsc", "stco"}) {
        auto bytes = test::mp4_file();
        const auto at = place_of(bytes, type) + (type == std::string_view("stsz") ? 12 : 8);
        test::put_number(bytes, at, 0xFFFFFFFF, 4, true);
        const auto check = checked(bytes);
        EXPECT_FALSE(check.complete) << type;
        EXPECT_FALSE(check.why.empty()) << type;
    }
}

TEST(IsoMedia, ManySamplesOfOneSizeCostNothing) {
    auto bytes = test::mp4_file();
    const auto at = place_of(bytes, "stsz");
    test::put_number(bytes, at + 8, 1, 4, true);
    test::put_number(bytes, at + 12, 0xFFFFFFFF, 4, true);
    EXPECT_FALSE(checked(bytes).complete);
    // All of them in one chunk.
    test::put_number(bytes, place_of(bytes, "stsc") + 16, 0xFFFFFFFF, 4, true);
    EXPECT_FALSE(checked(bytes).complete);
}

TEST(IsoMedia, TracksThatShareAllBytesAreNotReadForever) {
    // A movie of two hundred tracks, each with the same samples.
    const auto movie = test::mp4_file({.unit = 2000});
    const auto moov = place_of(movie, "moov") - 4;
    const auto trak = place_of(movie, "trak") - 4;
    const auto track_size = load<boost::endian::big_uint32_buf_t>(movie, trak)->value();
    const ByteVector track(movie.begin() + static_cast<std::ptrdiff_t>(trak),
                           movie.begin() + static_cast<std::ptrdiff_t>(trak + track_size));
    auto bytes = movie;
    for (int i = 0; i < 200; ++i) test::append(bytes, track);
    test::put_number(bytes, moov, bytes.size() - moov, 4, true);
    const auto check = checked(bytes);
    EXPECT_FALSE(check.finished);
    EXPECT_FALSE(check.complete);
}

TEST(IsoMedia, WithoutItsIndexNothingOfItsMediaIsVouchedFor) {
    auto bytes = test::mp4_file();
    const auto mdat = place_of(bytes, "mdat");
    bytes.resize(place_of(bytes, "moov") - 4);
    const auto check = checked(bytes);
    EXPECT_FALSE(check.complete);
    EXPECT_LE(check.holds_to, mdat + 4);
}

TEST(IsoMedia, BoxesThatNobodyKnowsAreItsOwnWhereTheyLeadOn) {
    const auto movie = test::mp4_file();
    const auto moov = place_of(movie, "moov") - 4;
    for (const auto at : {moov, movie.size()}) {
        auto bytes = movie;
        const ByteVector own{0, 0, 0, 12, 'q', 'x', 'y', 'z', 1, 2, 3, 4};
        for (int i = 0; i < 2; ++i)
            bytes.insert(bytes.begin() + static_cast<std::ptrdiff_t>(at), own.begin(), own.end());
        EXPECT_TRUE(checked(bytes).complete) << at;
        EXPECT_EQ(checked(bytes).holds_to, bytes.size());
        // One that leads to no other box is not the movie's.
        bytes[at + 3] = 13;
        EXPECT_NE(checked(bytes).holds_to, bytes.size()) << at;
    }
}

TEST(IsoMedia, AMissingBoxOfItsIndexIsNotHeldAgainstIt) {
    for (const auto* type : {"hdlr", "stsz", "stsc", "stco", "stbl", "mdia"}) {
        auto bytes = test::mp4_file();
        bytes[place_of(bytes, type)] = 'x';
        const auto check = checked(bytes);
        EXPECT_TRUE(check.complete) << type << ' ' << check.why;
        const bool tells_of_samples = std::string_view(type).starts_with("st");
        EXPECT_EQ(check.strength == Strength::weak, tells_of_samples || type == std::string_view("mdia"))
            << type;
    }
}

TEST(IsoMedia, CallsItselfByItsBrand) {
    EXPECT_EQ(checked(test::mp4_file()).format, "mp4");
    EXPECT_EQ(checked(test::mp4_file({.sound_alone = true})).format, "m4a");
    EXPECT_EQ(checked(test::mov_file()).format, "mov");
    auto bytes = test::mp4_file();
    const std::string_view brand = "crx ";
    std::copy(brand.begin(), brand.end(), bytes.begin() + 8);
    EXPECT_EQ(checked(bytes).format, "raw");
    // Pictures in the same boxes are no movies.
    const std::string_view picture = "heic";
    std::copy(picture.begin(), picture.end(), bytes.begin() + 8);
    EXPECT_EQ(checked(bytes).format, "heic");
}

}  // namespace undershelf::content
