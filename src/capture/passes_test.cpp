#include "capture/passes.hpp"

#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include "support/asked_device.hpp"
#include "support/temporary_folder.hpp"
#include "support/test_image.hpp"

namespace undershelf {

namespace {

using test::AskedDevice;
using ::testing::ElementsAre;
using ::testing::IsEmpty;
using State = CoverageState;

constexpr std::uint64_t size = 24 << 20;
const ByteVector& content() {
    static const auto bytes = test::random_bytes(size);
    return bytes;
}

/// What a run over a drive came to.
struct Copied {
    Copied(Simulation simulation, const PassOptions& options = {},
           std::vector<ByteRange> ranges = {{0, size}}, CopyOptions copying = {})
        : device(content(), std::move(simulation)) {
        const test::TemporaryFolder folder;
        test::TestImage image(folder.at("card.img"), size);
        BlockHashes hashes(image, test::replaced(folder.at("blocks.csv")));
        ImageWriter writer(image, CoverageRecord(size), test::replaced(folder.at("coverage.csv")), hashes);
        Progress progress;
        Copier copier(device, Coverage(size), writer, copying, progress);
        copier.set_aim(ranges);
        try {
            Passes(copier, {}, options).run(ranges);
        } catch (const SourceLost& e) {
            lost = e.what();
        }
        writer.finish();
        coverage = copier.coverage();
        EXPECT_EQ(read_coverage_file(folder.at("coverage.csv")).coverage, coverage);
        ByteVector bytes(size);
        EXPECT_TRUE(image.read(0, bytes));
        for (const auto& s : coverage.stretches()) {
            if (s.state != State::copied) continue;
            right &= std::equal(bytes.begin() + static_cast<std::ptrdiff_t>(s.range.offset),
                                bytes.begin() + static_cast<std::ptrdiff_t>(s.range.end()),
                                content().begin() + static_cast<std::ptrdiff_t>(s.range.offset));
        }
    }
    AskedDevice device;
    Coverage coverage{size};
    std::string lost;
    bool right = true;
};

struct Damage {
    double share;
    bool clumps;
};
class PassesOver : public ::testing::TestWithParam<Damage> {};

}  // namespace

TEST_P(PassesOver, CopyAllThatReadsAndAskNoMoreThanThreeTimes) {
    const auto places = test::failing_places(size, GetParam().share, GetParam().clumps);
    const auto bad = test::ranges_of(places);
    for (const bool from_end : {false, true}) {
        const Copied run({.places = places}, {.from_end = from_end});
        EXPECT_TRUE(run.right);
        EXPECT_EQ(run.coverage.ranges(State::unreadable), bad.ranges());
        EXPECT_EQ(run.coverage.bytes(State::copied), size - bad.bytes());
        EXPECT_LE(run.device.most_asked(bad), 3u);
        const auto least = GetParam().clumps ? 0.9 : 0.0;
        EXPECT_GE(run.device.share_of_first_half(), least);
    }
}

INSTANTIATE_TEST_SUITE_P(Damage, PassesOver,
                         ::testing::Values(Damage{0.01, true}, Damage{0.05, true}, Damage{0.3, true},
                                           Damage{0.01, false}, Damage{0.05, false}, Damage{0.3, false}),
                         [](const auto& chosen) {
                             return std::to_string(static_cast<int>(chosen.param.share * 100)) +
                                    (chosen.param.clumps ? "InClumps" : "Scattered");
                         });

TEST(Passes, ASoundDriveIsReadOnceInOrder) {
    const Copied run({});
    EXPECT_EQ(run.device.reads.size(), size / Copier::block_size);
    EXPECT_TRUE(std::is_sorted(run.device.reads.begin(), run.device.reads.end(),
                               [](const auto& a, const auto& b) { return a.range.offset < b.range.offset; }));
    EXPECT_THAT(run.coverage.stretches(), ElementsAre(Coverage::Stretch{{0, size}, State::copied}));
}

TEST(Passes, LeapsByGrowingStepsWhereReadingFails) {
    // The drive fails from 2 MiB to 20 MiB: after each failure more is leapt.
    const Copied run({.places = {{{2 << 20, 18 << 20}}}});
    std::vector<std::uint64_t> first;
    for (std::size_t i = 0; i < 7; ++i) first.push_back(run.device.reads[i].range.offset >> 20);
    EXPECT_THAT(first, ElementsAre(0, 1, 2, 4, 7, 12, 21));
}

TEST(Passes, ASlowReadIsKeptAndLeapt) {
    // A clock that is asked before a read and after it: the third one takes 30 ms, all others none.
    const auto clock = [asked = 0]() mutable {
        return std::chrono::steady_clock::time_point(std::chrono::milliseconds(++asked > 5 ? 30 : 0));
    };
    const Copied run({}, {}, {{0, size}}, {.patience = std::chrono::milliseconds(5), .now = clock});
    EXPECT_EQ(run.device.reads[2].range.offset >> 20, 2u);
    EXPECT_EQ(run.device.reads[3].range.offset >> 20, 4u) << "the block after a slow one waits";
    EXPECT_EQ(run.coverage.bytes(State::copied), size);
    EXPECT_EQ(run.device.reads.size(), size / Copier::block_size);
}

TEST(Passes, OnlyWhatIsWantedIsAskedFor) {
    const std::vector<ByteRange> wanted{{8 << 20, 4096}, {1 << 20, 512}};
    const Copied run({}, {}, wanted);
    ASSERT_EQ(run.device.reads.size(), 2u);
    EXPECT_EQ(run.device.reads[0].range, wanted[0]) << "in the order of the wishes";
    EXPECT_EQ(run.coverage.bytes(State::copied), 4608u);
}

TEST(Passes, TriesAgainAsOftenAsIsWished) {
    const std::vector<SimulatedPlace> places{{.range = {3 << 20, 512}, .times = 5}, {{9 << 20, 512}}};
    const Copied without({.places = places});
    EXPECT_EQ(without.coverage.bytes(State::unreadable), 1024u);
    const Copied with({.places = places}, {.again = 3});
    EXPECT_THAT(with.coverage.ranges(State::unreadable), ElementsAre(ByteRange{9 << 20, 512}));
    EXPECT_LE(with.device.most_asked(test::ranges_of(places)), 6u);
}

TEST(Passes, ADriveThatDiesIsLeftInPeaceAndCostsNothing) {
    const std::vector<SimulatedPlace> places{{{1 << 20, 64 << 10}}};
    const Copied run({.places = places, .dies_after_reads = 12});
    EXPECT_NE(run.lost.find("stopped answering"), std::string::npos) << run.lost;
    EXPECT_LE(run.device.reads.size(), 40u);
    EXPECT_EQ(run.coverage.bytes(State::unreadable), 0u);
    EXPECT_LE(run.coverage.bytes(State::leapt), 1u << 20) << "what failed because it was dead still waits";
}

TEST(Passes, ADriveThatNeverReadsIsGivenUp) {
    const Copied run({.places = {{{0, size}}}, .dies_after_reads = 0});
    EXPECT_TRUE(run.right);
    EXPECT_EQ(run.coverage.bytes(State::waiting), size);
    EXPECT_NE(run.lost.find("Nothing at all"), std::string::npos) << run.lost;
}

/// A drive that gives nothing of a read that meets a bad sector, as most do past the system's cache.
class AllOrNothing final : public ByteDevice {
  public:
    explicit AllOrNothing(RangeSet bad) : bad_(std::move(bad)) {}
    std::string path() const override { return "the drive"; }
    std::uint64_t size() const override { return drive_size; }
    std::uint32_t sector_size() const override { return 512; }
    bool read_at(std::uint64_t offset, MutableBytes out) const override {
        std::fill(out.begin(), out.end(), std::uint8_t{1});
        ++reads;
        return !bad_.touches({offset, out.size()});
    }
    static constexpr std::uint64_t drive_size = 80 << 20;
    mutable std::uint64_t reads = 0;

  private:
    RangeSet bad_;
};

TEST(Passes, ADriveWithABadSectorInEveryLongReadIsNoDeadOne) {
    std::vector<ByteRange> bad;
    for (std::uint64_t at = 0; at < AllOrNothing::drive_size; at += Copier::block_size)
        bad.push_back({at + 512 * (at / Copier::block_size % 100), 512});
    const AllOrNothing device{RangeSet(bad)};
    const test::TemporaryFolder folder;
    test::TestImage image(folder.at("card.img"), device.size());
    BlockHashes hashes(image, test::replaced(folder.at("blocks.csv")));
    ImageWriter writer(image, CoverageRecord(device.size()), test::replaced(folder.at("coverage.csv")),
                       hashes);
    Progress progress;
    Copier copier(device, Coverage(device.size()), writer, {}, progress);
    Passes(copier, {}, {}).run({{0, device.size()}});
    EXPECT_EQ(copier.coverage().ranges(State::unreadable), bad);
    EXPECT_EQ(copier.coverage().bytes(State::copied), device.size() - 512 * bad.size());
}

TEST(Passes, ALongBadStretchIsNoDeadDrive) {
    const Copied run({.places = {{{4 << 20, 3 << 20}}}});
    EXPECT_THAT(run.lost, IsEmpty());
    EXPECT_EQ(run.coverage.bytes(State::unreadable), 3u << 20);
}

}  // namespace undershelf
