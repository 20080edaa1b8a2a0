#include "export/room.hpp"

#include <gtest/gtest.h>

#include "shelf/writer.hpp"
#include "support/memory_device.hpp"
#include "support/temporary_folder.hpp"

namespace undershelf {

namespace {
Piece piece(PieceKind kind, std::uint64_t offset, std::uint64_t length) {
    Piece p;
    p.kind = kind;
    p.offset = offset;
    p.length = length;
    return p;
}
}  // namespace

TEST(Room, HolesAndLostBytesNeedNone) {
    EXPECT_EQ(bytes_held({}), 0u);
    EXPECT_EQ(bytes_held({piece(PieceKind::stored, 0, 100), piece(PieceKind::zeros, 100, 1ull << 60),
                          piece(PieceKind::inlined, (1ull << 60) + 100, 7),
                          piece(PieceKind::missing, 0, 5000), piece(PieceKind::packed, 0, 30)}),
              137u);
    // Sums that do not fit are as large as can be, not small.
    EXPECT_EQ(bytes_held({piece(PieceKind::stored, 0, ~0ull), piece(PieceKind::stored, 0, 2)}), ~0ull);
}

TEST(Room, KnowsFilesThatAreMostlyHoles) {
    const auto source = test::memory_source(ByteVector(10'000));
    ShelfEntry e;
    e.size = 100'000;
    EXPECT_TRUE(is_mostly_holes(
        e, {piece(PieceKind::stored, 0, 40'000), piece(PieceKind::zeros, 40'000, 60'000)}, *source));
    EXPECT_FALSE(is_mostly_holes(
        e, {piece(PieceKind::stored, 0, 60'000), piece(PieceKind::zeros, 60'000, 40'000)}, *source));
    // A file that its source could hold is exported whatever it holds.
    e.size = 10'000;
    EXPECT_FALSE(is_mostly_holes(e, {piece(PieceKind::zeros, 0, 10'000)}, *source));
}

TEST(Room, IsEstimatedBeforeAnythingIsWritten) {
    const test::TemporaryFolder folder;
    {
        ShelfWriter writer(SourceGuard::no_source(), folder.at("a.shelf"));
        writer.set_source({"/cards/card.img", 10'000, 512}, {});
        for (int i = 1; i <= 5; ++i) {
            Entry e;
            e.name = "cue" + std::to_string(i) + ".csv";
            e.key = {static_cast<std::uint64_t>(i), 0};
            e.size = static_cast<std::uint64_t>(i) * 1000;
            e.layout = Layout::known;
            writer.add_entry(i, 1, -1, e, sorting_of(e), {0.9, 1, Grade::likely});
        }
    }
    const Shelf shelf(folder.at("a.shelf"));
    const auto source = test::memory_source(ByteVector(10'000));
    ExportOptions options;
    options.to = {folder.at("not/there/yet")};
    const Destinations nowhere(shelf, options);
    const auto all = estimate(shelf, *source, options, nowhere, std::nullopt);
    EXPECT_EQ(all.files, 5u);
    EXPECT_EQ(all.bytes, 6u * 4096);  // whole blocks
    EXPECT_EQ(all.by_grade.at("likely"), 5u);
    EXPECT_EQ(all.too_large, 0u);
    EXPECT_TRUE(all.free && all.fits());
    const auto small = estimate(shelf, *source, options, nowhere, 3500);
    EXPECT_EQ(small.too_large, 2u);
    ASSERT_EQ(small.first_too_large.size(), 2u);
    EXPECT_EQ(small.first_too_large[0].first, "cue4.csv");
    EXPECT_EQ(small.first_too_large[0].second, 4000u);
    EXPECT_FALSE(largest_file_at(folder.at("not/there/yet")));  // no FAT here
}

}  // namespace undershelf
