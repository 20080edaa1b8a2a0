#include "mend/alone.hpp"

#include <gtest/gtest.h>

#include <numeric>

#include "mend/ends.hpp"
#include "support/mended_disk.hpp"

namespace undershelf {

namespace {

using test::clusters_of;
using Disk = test::MendedDisk;

constexpr auto step = Disk::step;

ByteVector zipped() {
    return test::zip_file({{"act 1.txt", test::libretto(9000)}, {"act 2.txt", test::libretto(7000)}});
}

std::vector<std::size_t> clusters_from(std::size_t first, std::size_t count) {
    std::vector<std::size_t> out(count);
    std::iota(out.begin(), out.end(), first);
    return out;
}
/// Puts a content in two pieces: so many clusters from `first` on, and the rest from `second` on.
std::vector<std::size_t> put_in_two(Disk& disk, const ByteVector& content, std::size_t first,
                                    std::size_t count, std::size_t second) {
    auto out = clusters_from(first, count);
    const auto rest = clusters_from(second, clusters_of(content) - count);
    out.insert(out.end(), rest.begin(), rest.end());
    disk.put(content, out);
    return out;
}
std::vector<std::size_t> clusters_in(const MendedContent& mended) {
    return test::clusters_in(mended.ranges);
}

}  // namespace

TEST(MendAlone, FindsWhereASecondPieceIs) {
    for (const auto& content :
         {zipped(), test::png_file(), test::gzip_file(test::libretto(9000)), test::jpeg_file()}) {
        const auto n = clusters_of(content);
        auto clusters = clusters_from(5, n / 2);
        const auto second = clusters_from(5 + n / 2 + 17, n - n / 2);
        clusters.insert(clusters.end(), second.begin(), second.end());
        Disk disk(300);
        disk.put(content, clusters);
        const auto* format =
            format_of_start(Bytes(content).first(std::min<std::size_t>(4096, content.size())));
        ASSERT_TRUE(format);
        const auto mended = disk.mended({5 * step, content.size(), format});
        ASSERT_TRUE(mended) << format->word;
        EXPECT_EQ(clusters_in(*mended), clusters) << format->word;
        EXPECT_EQ(mended->pieces(), 2u);
        EXPECT_GT(disk.cost.trials, 0u);
    }
}

TEST(MendAlone, FindsTurnsOfOneLength) {
    const auto content = zipped();
    const auto n = clusters_of(content);
    for (const std::size_t run : {1, 2, 4}) {
        std::vector<std::size_t> clusters;
        for (std::size_t i = 0; i < n; ++i) clusters.push_back(3 + i / run * 2 * run + i % run);
        Disk disk(400);
        disk.put(content, clusters);
        const auto mended = disk.mended({3 * step, content.size(), format_named("zip")});
        ASSERT_TRUE(mended) << run;
        EXPECT_EQ(clusters_in(*mended), clusters) << run;
    }
}

TEST(MendAlone, StepsOverWhatSomebodyHas) {
    const auto content = zipped();
    auto clusters = clusters_from(3, clusters_of(content) + 2);
    clusters.erase(clusters.begin() + 4, clusters.begin() + 6);
    Disk disk(200);
    disk.put(content, clusters);
    const auto mended =
        disk.mended({3 * step, content.size(), format_named("zip")}, RangeSet({{7 * step, 2 * step}}));
    ASSERT_TRUE(mended);
    EXPECT_EQ(clusters_in(*mended), clusters);
    EXPECT_EQ(disk.cost.trials, 1u) << "the first layout steps over it already";
}

TEST(MendAlone, OfUnknownLengthGoesOnToItsEnd) {
    const auto content = test::png_file();
    const auto n = clusters_of(content);
    std::vector<std::size_t> clusters = clusters_from(2, 2);
    const auto rest = clusters_from(9, n - 2);
    clusters.insert(clusters.end(), rest.begin(), rest.end());
    Disk disk(200);
    disk.put(content, clusters);
    const auto mended = disk.mended({2 * step, 0, format_named("png")});
    ASSERT_TRUE(mended);
    EXPECT_EQ(mended->size, content.size());
    EXPECT_EQ(clusters_in(*mended), clusters);
}

TEST(MendAlone, JoinsNothingByLuckAndGivesUp) {
    // A start among noise: nothing goes on with it.
    const auto content = zipped();
    Disk disk(400);
    disk.put(ByteVector(content.begin(), content.begin() + step), {7});
    MendLimits limits;
    limits.trials = 500;
    EXPECT_FALSE(disk.mended({7 * step, content.size(), format_named("zip")}, {}, limits));
    EXPECT_LE(disk.cost.trials, limits.trials + 1);
    // Of formats whose check says too little nothing is laid out anew.
    EXPECT_FALSE(disk.mended({7 * step, 5000, format_named("text")}));
    EXPECT_FALSE(disk.mended({7 * step, 5000, nullptr}));
}

TEST(FreeClusters, AreThoseOfAGridThatNobodyHas) {
    const RangeSet taken({{1024, 100}, {3000, 10}});
    const FreeClusters free(512, 512, {0, 5000}, taken);
    EXPECT_EQ(free.first(), 512u);
    EXPECT_EQ(free.after(512), 1536u);
    EXPECT_EQ(free.before(1536), 512u);
    EXPECT_FALSE(free.before(512));
    EXPECT_EQ(free.after(2048), 3072u) << "what is touched at all is somebody's";
    EXPECT_FALSE(free.after(4096)) << "the last one is not whole";
    EXPECT_FALSE(free.is_free(700)) << "between two steps";
}

TEST(FitsAsEnd, GoesByMarksAndZeros) {
    const auto content = test::png_file();
    ByteVector bytes(4 * step, 0x5A);
    const auto used = content.size() % step;
    ASSERT_GT(used, 12u);
    std::fill_n(bytes.begin() + step, step, std::uint8_t{0});
    std::copy(content.end() - static_cast<std::ptrdiff_t>(used), content.end(), bytes.begin() + step);
    const auto device = test::memory_source(bytes);
    const auto& source = *device;
    EXPECT_EQ(fits_as_end(source, step, step, content.size(), *format_named("png")), 2);
    EXPECT_EQ(fits_as_end(source, 2 * step, step, content.size(), *format_named("png")), 0);
    EXPECT_EQ(fits_as_end(source, step, step, content.size(), *format_named("mp4")), 2) << "zeros follow";
    EXPECT_EQ(fits_as_end(source, 2 * step, step, content.size(), *format_named("mp4")), 1);
}

TEST(MendAlone, OfUnknownLengthStepsOverWhatLiesWithinIt) {
    const auto content = zipped();
    Disk disk(100);
    const auto clusters = put_in_two(disk, content, 5, 1, 9);
    // A folder's wiped cluster is before what is taken.
    disk.put(ByteVector(step), {6});
    const auto mended = disk.mended({5 * step, 0, format_named("zip")}, RangeSet({{7 * step, 2 * step}}));
    ASSERT_TRUE(mended);
    EXPECT_EQ(clusters_in(*mended), clusters);
    EXPECT_EQ(mended->size, content.size());
}

TEST(MendAlone, BeginsAnewAtTheEndOfTheVolume) {
    const auto content = test::gzip_file(test::libretto(60000));
    Disk disk(100);
    const auto clusters = put_in_two(disk, content, 97, 3, 12);
    const auto mended = disk.mended({97 * step, content.size(), format_named("gzip")});
    ASSERT_TRUE(mended);
    EXPECT_EQ(clusters_in(*mended), clusters);
}

}  // namespace undershelf
