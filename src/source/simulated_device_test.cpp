#include "source/simulated_device.hpp"

#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include "base/error.hpp"
#include "support/memory_device.hpp"
#include "support/temporary_folder.hpp"

namespace undershelf {

namespace {

using ::testing::HasSubstr;
using Kind = SimulatedPlace::Kind;

std::unique_ptr<ByteDevice> device(Simulation simulation) {
    return make_simulated_device(std::make_unique<test::MemoryDevice>(ByteVector(8192, 7)),
                                 std::move(simulation));
}

std::size_t got(const ByteDevice& d, std::uint64_t offset, std::size_t length) {
    ByteVector out(length);
    return d.read_some(offset, out);
}

}  // namespace

TEST(SimulatedDevice, StopsAtTheFirstSectorThatFails) {
    const auto d = device({.places = {{{1024, 512}}, {{4096, 1}}}});
    EXPECT_EQ(got(*d, 0, 2048), 1024u);
    EXPECT_EQ(got(*d, 1536, 2560), 2560u);
    EXPECT_EQ(got(*d, 4000, 4192), 96u);
}

TEST(SimulatedDevice, ASectorFailsAsOftenAsItIsToFail) {
    const auto d = device({.places = {{.range = {1024, 1024}, .times = 2}}});
    EXPECT_EQ(got(*d, 1024, 512), 0u);
    EXPECT_EQ(got(*d, 1024, 512), 0u);
    EXPECT_EQ(got(*d, 1024, 512), 512u);
    EXPECT_EQ(got(*d, 1536, 512), 0u) << "the next sector counts for itself";
}

TEST(SimulatedDevice, DiesAfterSoManyReadsOrBytes) {
    const auto reads = device({.places = {}, .dies_after_reads = 2});
    EXPECT_EQ(got(*reads, 0, 512), 512u);
    EXPECT_EQ(got(*reads, 0, 512), 512u);
    EXPECT_EQ(got(*reads, 0, 512), 0u);
    const auto bytes = device({.places = {}, .dies_after_reads = ~0ull, .dies_after_bytes = 1000});
    EXPECT_EQ(got(*bytes, 0, 512), 512u);
    EXPECT_EQ(got(*bytes, 0, 512), 512u);
    EXPECT_EQ(got(*bytes, 0, 512), 0u);
}

TEST(SimulatedDevice, FindsPlacesInsideLongerOnes) {
    // A short place inside a long one, and the long one again after it.
    const auto d = device({.places = {{.range = {0, 8192}, .times = 1}, {.range = {512, 512}, .times = 3}}});
    EXPECT_EQ(got(*d, 512, 512), 0u);
    EXPECT_EQ(got(*d, 512, 512), 0u);
    EXPECT_EQ(got(*d, 512, 512), 0u);
    EXPECT_EQ(got(*d, 512, 512), 512u);
    EXPECT_EQ(got(*d, 4096, 512), 0u);
    EXPECT_EQ(got(*d, 4096, 512), 512u);
}

TEST(SimulatedDevice, ReadsItsBehaviourFromAFile) {
    const test::TemporaryFolder folder;
    const auto s =
        read_simulation(folder.write("drive.csv",
                                     "# a drive of the scene dock\noffset,length,behaviour\n0,512,fail\n"
                                     "512,512,fail 3\n1024,512,slow 40\n0,0,die after 100 reads\n"
                                     "0,0,die after 9 bytes\n"));
    ASSERT_EQ(s.places.size(), 3u);
    EXPECT_EQ(s.places[0].times, ~0ull);
    EXPECT_EQ(s.places[1].times, 3u);
    EXPECT_EQ(s.places[2].kind, Kind::slow);
    EXPECT_EQ(s.places[2].milliseconds, 40u);
    EXPECT_EQ(s.dies_after_reads, 100u);
    EXPECT_EQ(s.dies_after_bytes, 9u);
    const auto plain = read_simulation(folder.write("list.csv", "offset,length\n512,1024\n"));
    ASSERT_EQ(plain.places.size(), 1u);
    EXPECT_EQ(plain.places[0].range, (ByteRange{512, 1024}));
}

TEST(SimulatedDevice, SaysWhatIsWrongInTheFile) {
    const test::TemporaryFolder folder;
    const auto trouble_of = [&](const std::string& text) {
        try {
            read_simulation(folder.write("drive.csv", text));
        } catch (const Error& e) {
            return std::string(e.what());
        }
        return std::string("none");
    };
    EXPECT_THAT(trouble_of("offset,length,behaviour\n0,512,sulk\n"), HasSubstr("line 2"));
    EXPECT_THAT(trouble_of("offset,length,behaviour\n0,512,fail x\n"), HasSubstr("behaviours"));
    EXPECT_THAT(trouble_of("offset,length,behaviour\n0,fail\n"), HasSubstr("line 2"));
    EXPECT_THAT(trouble_of("nothing\n"), HasSubstr("first line"));
}

}  // namespace undershelf
