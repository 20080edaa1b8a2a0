#include "scan/source_sweep.hpp"

#include <gtest/gtest.h>

#include "base/units.hpp"
#include "scan/scan.hpp"
#include "support/disk_image.hpp"
#include "support/fat_image.hpp"
#include "support/temporary_folder.hpp"

namespace undershelf {

namespace {

test::FatImage card(const std::string& name) {
    test::FatImage out;
    out.put(0, name, u"", {10}, "cue");
    return out;
}

/// Three volumes: one at a usual place, and two at odd sectors, blocks of the sweep apart.
std::string make_disk(const test::TemporaryFolder& folder, bool usual = true) {
    ByteVector disk(32 * mebibyte);
    if (usual) test::put_volume(disk, 8 * mebibyte, card("USUAL   CSV").bytes());
    test::put_volume(disk, 3 * 512, card("ODD     CSV").bytes());
    test::put_volume(disk, 21 * mebibyte + 5 * 512, card("LATE    CSV").bytes());
    return folder.write("disk.img", disk);
}

ScanOptions options(const std::string& image, const std::string& shelf, Reach reach) {
    ScanOptions out;
    out.source_path = image;
    out.shelf_path = shelf;
    out.reach = reach;
    return out;
}

using Row = std::tuple<std::int64_t, int, std::string>;
std::vector<Row> rows(const std::string& path) {
    std::vector<Row> out;
    Shelf(path).for_each({}, {}, [&](const ShelfEntry& e) {
        out.emplace_back(e.id, e.volume.value_or(0), e.path());
        return true;
    });
    return out;
}

/// Leaves as soon as a stage begins.
struct StopIn : Progress {
    explicit StopIn(std::string name) : name_(std::move(name)) {}
    void stage(std::string_view what) override { stop_ |= what == name_; }
    bool stopped() const override { return stop_; }

  private:
    std::string name_;
    bool stop_ = false;
};
struct StopReading final : StopIn {
    StopReading() : StopIn("looking for lost folders") {}
};

/// Has enough of the sweep after so many of its blocks.
struct EnoughAfter final : Progress {
    explicit EnoughAfter(int n) : most(n) {}
    void stage(std::string_view what) override { sweeping = what == "sweeping"; }
    bool enough() override { return sweeping && ++asked >= most; }
    int most, asked = 0;
    bool sweeping = false;
};

}  // namespace

TEST(SourceSweep, AddsVolumesToAShelfWhoseIdsStay) {
    const test::TemporaryFolder folder;
    const auto image = make_disk(folder);
    const auto shelf = folder.at("a.shelf");
    Progress progress;
    EXPECT_EQ(scan(options(image, shelf, Reach::volumes), progress).volumes.size(), 1u);
    const auto before = rows(shelf);
    ASSERT_EQ(before.size(), 1u);
    const auto result = scan(options(image, shelf, Reach::traces), progress);
    EXPECT_FALSE(result.was_complete);
    ASSERT_EQ(result.volumes.size(), 3u);
    EXPECT_EQ(result.volumes[0].offset, 8 * mebibyte);
    EXPECT_EQ(result.volumes[1].offset, 3u * 512);
    EXPECT_EQ(result.volumes[1].number, 2);
    const auto after = rows(shelf);
    EXPECT_EQ(after.size(), 3u);
    EXPECT_EQ(after.front(), before.front());
    // Nothing is left to do for either reach.
    EXPECT_TRUE(scan(options(image, shelf, Reach::traces), progress).was_complete);
    EXPECT_TRUE(scan(options(image, shelf, Reach::volumes), progress).was_complete);
}

TEST(SourceSweep, SettlesWhatItHasAndGoesOn) {
    const test::TemporaryFolder folder;
    const auto image = make_disk(folder);
    const auto shelf = folder.at("a.shelf");
    EnoughAfter early(1);
    const auto part = scan(options(image, shelf, Reach::traces), early);
    EXPECT_TRUE(part.interrupted);
    EXPECT_EQ(part.volumes.size(), 2u);
    EXPECT_EQ(rows(shelf).size(), 2u);
    Progress progress;
    EXPECT_FALSE(scan(options(image, shelf, Reach::traces), progress).interrupted);
    const auto whole = folder.at("whole.shelf");
    scan(options(image, whole, Reach::traces), progress);
    EXPECT_EQ(rows(shelf), rows(whole));
    const auto scans = Shelf(shelf).scans();
    ASSERT_EQ(scans.size(), 2u);
    EXPECT_EQ(scans[0].state, "interrupted");
    EXPECT_EQ(scans[1].state, "done");
}

TEST(SourceSweep, KeepsItsPlaceWhenAllIsToEnd) {
    const test::TemporaryFolder folder;
    const auto image = make_disk(folder, false);
    const auto shelf = folder.at("a.shelf");
    StopIn leave("sweeping");
    EXPECT_TRUE(scan(options(image, shelf, Reach::traces), leave).interrupted);
    EXPECT_TRUE(rows(shelf).empty());
    EXPECT_GE(ShelfWriter(SourceGuard::no_source(), shelf).checkpoint().swept, 4 * mebibyte);
    // What is swept is not read again: a head that only now appears there is not seen.
    std::uint64_t left_at = 0;
    struct Watch final : Progress {
        explicit Watch(std::uint64_t& first) : first_(first) {}
        void stage(std::string_view what) override { sweeping = what == "sweeping"; }
        void at(std::uint64_t done, std::uint64_t) override {
            if (sweeping && first_ == 0) first_ = done;
        }
        std::uint64_t& first_;
        bool sweeping = false;
    } watch(left_at);
    EXPECT_EQ(scan(options(image, shelf, Reach::traces), watch).volumes.size(), 2u);
    EXPECT_GE(left_at, 4 * mebibyte);
}

TEST(SourceSweep, ReadsAFatVolumeWithoutAnyHead) {
    const test::TemporaryFolder folder;
    test::FatImage fat({.width = fat::Width::fat16, .clusters = 5000});
    fat.chain({4});
    fat.make_folder(4, 0);
    fat.add(0, {"SCRIPTS    ", {}, 4, 0, fat::ATTR_DIRECTORY});
    fat.put(4, "ACT1    TXT", u"", {10, 11}, test::sample_text("Act one", 700));
    std::fill_n(fat.bytes().begin(), 512, 0);
    ByteVector disk(3 * 512);
    disk.insert(disk.end(), fat.bytes().begin(), fat.bytes().end());
    const auto image = folder.write("disk.img", disk);
    const auto shelf = folder.at("a.shelf");
    // Interrupted while it is read, it is opened again by what the shelf keeps of it.
    StopReading early;
    EXPECT_TRUE(scan(options(image, shelf, Reach::traces), early).interrupted);
    Progress progress;
    const auto result = scan(options(image, shelf, Reach::traces), progress);
    ASSERT_EQ(result.volumes.size(), 1u);
    EXPECT_EQ(result.volumes[0].found_by, "FATs");
    EXPECT_EQ(result.volumes[0].file_system, "FAT16");
    ASSERT_EQ(rows(shelf).size(), 2u);
    EXPECT_EQ(std::get<2>(rows(shelf)[1]), "SCRIPTS/ACT1.TXT");
    Shelf(shelf).for_each({}, {}, [](const ShelfEntry& e) {
        EXPECT_EQ(e.origin, Origin::live);
        return true;
    });
}

TEST(SourceSweep, SaysOnceWhatItPassedOver) {
    const test::TemporaryFolder folder;
    test::FatImage inner({.clusters = 500}), outer({.clusters = 4000});
    test::put_volume(outer.bytes(), outer.cluster_offset(100), inner.bytes());
    ByteVector disk(3 * 512);
    disk.insert(disk.end(), outer.bytes().begin(), outer.bytes().end());
    const auto image = folder.write("disk.img", disk);
    const auto shelf = folder.at("a.shelf");
    StopReading early;
    EXPECT_TRUE(scan(options(image, shelf, Reach::traces), early).interrupted);
    Progress progress;
    const auto result = scan(options(image, shelf, Reach::traces), progress);
    EXPECT_EQ(result.volumes.size(), 1u);
    EXPECT_EQ(std::count_if(result.diagnostics.begin(), result.diagnostics.end(),
                            [](const std::string& d) { return d.find("passed over") != std::string::npos; }),
              1);
}

TEST(SourceSweep, SaysWhatASourceWithoutVolumesNeeds) {
    const test::TemporaryFolder folder;
    const auto image = folder.write("blank.img", ByteVector(mebibyte, 'x'));
    Progress progress;
    const auto result = scan(options(image, folder.at("a.shelf"), Reach::traces), progress);
    EXPECT_TRUE(result.volumes.empty());
    EXPECT_EQ(result.entries, 0u);
    EXPECT_FALSE(result.interrupted);
}

}  // namespace undershelf
