#include "scan/scan.hpp"

#include <gtest/gtest.h>

#include <atomic>
#include <thread>

#include "shelf/shelf.hpp"
#include "support/fat_image.hpp"
#include "support/temporary_folder.hpp"

namespace undershelf {

namespace {

/// Asks for an early end once the folder stage has come so far.
struct StopAfter final : Progress {
    explicit StopAfter(std::uint64_t n) : most(n) {}
    void at(std::uint64_t done, std::uint64_t) override { seen = std::max(seen, done); }
    bool stopped() const override { return seen >= most; }
    std::uint64_t most, seen = 0;
};

/// A card with twenty folders of three files.
std::string make_card(const test::TemporaryFolder& folder) {
    test::FatImage card({.clusters = 2000, .sectors_per_cluster = 4});
    for (fat::Cluster c = 10; c < 30; ++c) {
        card.chain({c});
        card.make_folder(c, 0);
        card.add(0, {"ACT" + std::to_string(c) + "      ", {}, c, 0, 0x10});
        for (int i = 0; i < 3; ++i)
            card.put(c, "CUE" + std::to_string(i) + "    CSV", u"", {c * 10 + static_cast<fat::Cluster>(i)},
                     "cue");
    }
    return folder.write("card.img", card.bytes());
}

std::vector<std::pair<std::int64_t, std::string>> listing(const std::string& path) {
    std::vector<std::pair<std::int64_t, std::string>> out;
    Shelf(path).for_each({}, {}, [&](const ShelfEntry& e) {
        out.emplace_back(e.id, e.path());
        return true;
    });
    return out;
}

}  // namespace

TEST(Scan, KeepsWhatItHasWhenInterrupted) {
    const test::TemporaryFolder folder;
    const auto image = make_card(folder);
    StopAfter early(5);
    const auto result = scan({image, folder.at("a.shelf"), {}, {}}, early);
    EXPECT_TRUE(result.interrupted);
    const auto part = listing(folder.at("a.shelf"));
    EXPECT_GT(part.size(), 5u);
    EXPECT_LT(part.size(), 80u);

    Progress whole;
    EXPECT_FALSE(scan({image, folder.at("a.shelf"), {}, {}}, whole).interrupted);
    EXPECT_FALSE(scan({image, folder.at("b.shelf"), {}, {}}, whole).interrupted);
    const auto all = listing(folder.at("a.shelf"));
    EXPECT_EQ(all.size(), 80u);
    EXPECT_EQ(all, listing(folder.at("b.shelf")));
    // Ids never change: what was listed early has its number still.
    for (const auto& entry : part)
        EXPECT_NE(std::find(all.begin(), all.end(), entry), all.end()) << entry.second;
}

TEST(Scan, CanBeInterruptedInEveryStage) {
    const test::TemporaryFolder folder;
    const auto image = make_card(folder);
    struct StopIn final : Progress {
        std::string stage_name;
        bool stop = false;
        void stage(std::string_view what) override { stop |= what == stage_name; }
        bool stopped() const override { return stop; }
    };
    Progress whole;
    scan({image, folder.at("whole.shelf"), {}, {}}, whole);
    for (const char* stage : {"reading folders", "looking for lost folders", "reading deleted entries",
                              "reading remnants", "rating", "comparing contents"}) {
        const auto shelf = folder.at(std::string(stage) + ".shelf");
        StopIn early;
        early.stage_name = stage;
        EXPECT_TRUE(scan({image, shelf, {}, {}}, early).interrupted) << stage;
        EXPECT_EQ(Shelf(shelf).last_scan()->state, "interrupted") << stage;
        EXPECT_FALSE(scan({image, shelf, {}, {}}, whole).interrupted) << stage;
        EXPECT_EQ(listing(shelf), listing(folder.at("whole.shelf"))) << stage;
    }
}

TEST(Scan, CanBeListedWhileItRuns) {
    const test::TemporaryFolder folder;
    const auto image = make_card(folder);
    struct Looking final : Progress {
        std::string path;
        bool looked = false;
        void stage(std::string_view what) override {
            if (what != "rating") return;
            looked = listing(path).size() == 80;
        }
    } looking;
    looking.path = folder.at("a.shelf");
    scan({image, looking.path, {}, {}}, looking);
    EXPECT_TRUE(looking.looked);
}

TEST(Scan, LetsMarksBeSetWhileItRuns) {
    const test::TemporaryFolder folder;
    const auto image = make_card(folder);
    // Marks from another thread as soon as entries are there, while the scan commits again and again.
    struct Marking final : Progress {
        std::string path;
        std::thread other;
        std::atomic<std::uint64_t> marked{0};
        void stage(std::string_view what) override {
            if (what == "rating") {
                other = std::thread([this] {
                    Selection all;
                    all.exts = {"csv"};
                    marked = Shelf(path, Shelf::Access::mark).mark(all, true);
                });
            }
        }
    } marking;
    marking.path = folder.at("a.shelf");
    scan({image, marking.path, {}, {}}, marking);
    marking.other.join();
    EXPECT_EQ(marking.marked, 60u);
}

TEST(Scan, RefusesASecondWriter) {
    const test::TemporaryFolder folder;
    const auto image = make_card(folder);
    struct Second final : Progress {
        std::string image, path;
        std::string said;
        void stage(std::string_view what) override {
            if (what != "reading folders") return;
            Progress quiet;
            try {
                scan({image, path, {}, {}}, quiet);
            } catch (const Error& e) {
                said = e.what();
            }
        }
    } second;
    second.image = image;
    second.path = folder.at("a.shelf");
    scan({image, second.path, {}, {}}, second);
    EXPECT_NE(second.said.find("Another command"), std::string::npos) << second.said;
}

TEST(Scan, ReadsALargeVolumeAgainWithTheFoldersThatASweepFound) {
    const test::TemporaryFolder folder;
    test::FatImage card({.clusters = 2000, .sectors_per_cluster = 4});
    card.put(0, "KEPT    CSV", u"", {10}, "cue");
    card.make_folder(700, 0);  // which nothing names
    card.erase(card.put(700, "FOX     CSV", u"", {701}, "fox"));
    ScanOptions options{folder.write("card.img", card.bytes()), folder.at("a.shelf"), {}, {}};
    options.read.search_bytes = 0;  // as if it were too large to be looked through
    Progress progress;
    scan(options, progress);
    const auto first = listing(options.shelf_path);
    ASSERT_EQ(first.size(), 1u);
    options.reach = Reach::traces;
    const auto swept = scan(options, progress);
    ASSERT_EQ(swept.volumes.size(), 1u) << "it is no former volume's";
    const auto all = listing(options.shelf_path);
    ASSERT_EQ(all.size(), 3u);
    EXPECT_EQ(all[0], first[0]) << "what was listed before keeps its id";
    EXPECT_EQ(all[2].second, "folder-700/_OX.CSV");
    // Once more, and further: nothing is new, and nothing is read again.
    options.reach = Reach::content;
    scan(options, progress);
    auto again = listing(options.shelf_path);
    again.resize(3);
    EXPECT_EQ(again, all);
}

}  // namespace undershelf
