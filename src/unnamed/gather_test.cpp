#include "unnamed/gather.hpp"

#include <gtest/gtest.h>

#include "support/memory_content.hpp"
#include "support/memory_device.hpp"
#include "unnamed/starts.hpp"

namespace undershelf {

namespace {

/// A source of contents at whole clusters, and what is gathered from it.
class Gathered : public ::testing::Test {
  protected:
    static constexpr std::size_t step = 4096;

    /// Returns where it is.
    std::uint64_t put(const ByteVector& content) {
        const auto at = bytes_.size();
        bytes_.insert(bytes_.end(), content.begin(), content.end());
        bytes_.resize((bytes_.size() + step - 1) / step * step);
        return at;
    }
    std::vector<Measured> gather(const WantedFormat& wanted = all, std::uint64_t from = 0) {
        bytes_.resize(bytes_.size() + step);
        const auto source = test::memory_source(bytes_);
        const FreeSpace space(RangeSet(claimed_), bytes_.size());
        Volume volume;
        volume.number = 1;
        volume.size = bytes_.size();
        volume.cluster_size = step;
        const Grids grids({volume});
        Places seen(space, grids);
        for (const auto& s : find_starts({bytes_, 0, bytes_.size()}))
            seen.add({s.offset, format_named(s.format), s.breaks_a_line});
        for (const auto offset : more_starts_) seen.add({offset, format_named("text")});
        const auto places = seen.take();
        std::vector<Measured> out;
        ReadHere reading;
        passed_over_ = Gathering(*source, space, grids, places, wanted, reading)
                           .run(
                               from, Progress(), [&](Measured&& m) { out.push_back(std::move(m)); },
                               [&](std::uint64_t at) { reached_ = at; });
        return out;
    }
    static bool all(const Format&) { return true; }

    ByteVector bytes_;
    std::vector<ByteRange> claimed_;
    std::vector<std::uint64_t> more_starts_;  ///< of texts
    std::uint64_t passed_over_ = 0, reached_ = 0;
};

/// A sound file of nothing but its head and as many bytes as asked for.
ByteVector sound(std::size_t bytes) {
    auto out = test::wav_file();
    const auto number = [&](std::size_t at, std::size_t value) {
        for (std::size_t i = 0; i < 4; ++i) out[at + i] = static_cast<std::uint8_t>(value >> (8 * i));
    };
    out.resize(44);
    number(4, 36 + bytes);
    number(40, bytes);
    out.resize(44 + bytes, 0x55);
    return out;
}

/// A film that nothing proves, since it has a long text attached to it; then a picture begins.
constexpr std::size_t cover_at = 8 * 4096;
ByteVector film_with_cover() {
    return test::matroska_file(false, test::Blocks::simple, "matroska", cover_at);
}

}  // namespace

TEST_F(Gathered, FindsWhatStandsInFreeSpace) {
    const auto picture = test::png_file(), text = test::libretto(5000);
    put(picture);
    const auto claimed = put(picture);
    claimed_.push_back({claimed, step});
    const auto at = put(text);
    const auto found = gather();
    ASSERT_EQ(found.size(), 2u);
    EXPECT_EQ(found[0].range, (ByteRange{0, picture.size()}));
    EXPECT_EQ(found[1].range, (ByteRange{at, text.size()}));
    EXPECT_EQ(reached_, ~0ull);
    EXPECT_EQ(passed_over_, 0u);
    // Going on from a place is the rest of the same.
    EXPECT_EQ(gather(all, step).size(), 1u);
}

TEST_F(Gathered, ListsNoMemberOfWhatHolds) {
    // Stored in an archive a picture is as it is, here at a cluster's start.
    auto padding = test::libretto(step - 30 - 8 - 30 - 8);
    put(test::zip_file({{"fill.txt", padding, false}, {"pict.png", test::png_file(), false}}));
    const auto found = gather();
    ASSERT_EQ(found.size(), 1u);
    EXPECT_EQ(found[0].format, "zip");
}

TEST_F(Gathered, AFilmIsNotCutAtThePictureInIt) {
    // It says where it ends, and nothing proves all of it; its cover begins at a sector.
    const auto film = film_with_cover();
    ASSERT_GT(film.size(), cover_at);
    put(film);
    const auto found = gather();
    ASSERT_EQ(found.size(), 1u);
    EXPECT_EQ(found[0].format, "mkv");
    EXPECT_EQ(found[0].range, (ByteRange{0, film.size()}));
}

TEST_F(Gathered, WhatEndsAfterAFilmIsNotInIt) {
    // Another file begins where the film's last cluster was, and holds by itself.
    const auto film = film_with_cover();
    auto archive = test::zip_file({{"fill.txt", test::libretto(3 * step), false}});
    bytes_.assign(film.begin(), film.begin() + cover_at);
    const auto at = put(archive);
    const auto found = gather();
    ASSERT_EQ(found.size(), 2u);
    EXPECT_EQ(found[0].range, (ByteRange{0, at}));
    EXPECT_EQ(found[1].range, (ByteRange{at, archive.size()}));
}

TEST_F(Gathered, WhatHoldsEndsWhatOnlySaysWhereItEnds) {
    // A sound that was written in two pieces, with a picture between them.
    auto torn = sound(3 * step);
    const auto picture = test::png_file();
    ASSERT_LT(picture.size(), step);
    std::fill(torn.begin() + step, torn.begin() + 2 * step, 0);
    std::copy(picture.begin(), picture.end(), torn.begin() + step);
    put(torn);
    const auto found = gather();
    ASSERT_EQ(found.size(), 2u);
    EXPECT_EQ(found[0].format, "wav");
    EXPECT_EQ(found[0].ending, Ending::cut);
    EXPECT_EQ(found[0].range.length, step);
    EXPECT_TRUE(found[1].proven());
    EXPECT_EQ(found[1].range, (ByteRange{step, picture.size()}));
}

TEST_F(Gathered, MembersOfATarAreItsOwn) {
    put(test::tar_file());
    const auto found = gather();
    ASSERT_EQ(found.size(), 1u);
    EXPECT_EQ(found[0].format, "tar");
    EXPECT_TRUE(found[0].whole());
}

TEST_F(Gathered, ATextGoesOnOverWhatBeginsLikeOne) {
    // A sweep's buffer begins within it, and sees no more.
    const auto text = test::libretto(5 * step + 900);
    put(text);
    more_starts_ = {2 * step};
    const auto found = gather();
    ASSERT_EQ(found.size(), 1u);
    EXPECT_EQ(found[0].range.length, text.size());
    EXPECT_TRUE(found[0].whole());
}

TEST_F(Gathered, ATextIsSeenBehindWhatAnOlderOneLeft) {
    // A picture in the first sectors of a cluster, an older text in the rest of it; the next text begins with
    // the next cluster, and nothing tells where the older one stops.
    const auto picture = test::png_file();
    auto cluster = picture;
    cluster.resize((cluster.size() + 511) / 512 * 512);
    const auto older = test::libretto(step);
    cluster.insert(cluster.end(), older.begin(),
                   older.begin() + static_cast<std::ptrdiff_t>(step - cluster.size()));
    ASSERT_EQ(cluster.size(), step);
    put(cluster);
    const auto text = test::libretto(5000);
    const auto at = put(text);
    const auto found = gather();
    ASSERT_EQ(found.size(), 2u);
    EXPECT_EQ(found[0].range, (ByteRange{0, picture.size()}));
    EXPECT_EQ(found[1].range, (ByteRange{at, text.size()}));
}

TEST_F(Gathered, PacketsOfABrokenStreamAreItsOwn) {
    // A stream of packets that ends with its cluster, so that nothing tells whether it goes on elsewhere.
    const auto film = test::transport_stream(192, 3 * step / 192);
    ASSERT_EQ(film.size(), 3 * step);
    put(film);
    put(test::png_file());
    const auto found = gather();
    ASSERT_EQ(found.size(), 2u);
    EXPECT_EQ(found[0].range.length, film.size());
    EXPECT_FALSE(found[0].whole());
}

TEST_F(Gathered, OnlyWhatIsWantedIsMeasured) {
    put(test::png_file());
    put(test::libretto(5000));
    put(test::flac_file());
    const auto found = gather([](const Format& f) { return f.kind == Kind::audio; });
    ASSERT_EQ(found.size(), 1u);
    EXPECT_EQ(found[0].format, "flac");
}

TEST_F(Gathered, StopsWhenAsked) {
    struct Stopped final : Progress {
        bool stopped() const override { return true; }
    };
    put(test::png_file());
    bytes_.resize(bytes_.size() + step);
    const auto source = test::memory_source(bytes_);
    const FreeSpace space(RangeSet(), bytes_.size());
    const std::vector<Place> places{{0, format_named("png")}};
    bool told = false;
    ReadHere reading;
    Gathering(*source, space, Grids({}), places, all, reading)
        .run(
            0, Stopped(), [&](Measured&&) { told = true; }, [&](std::uint64_t) { told = true; });
    EXPECT_FALSE(told);
}

}  // namespace undershelf
