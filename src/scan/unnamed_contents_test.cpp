#include "scan/unnamed_contents.hpp"

#include <gtest/gtest.h>

#include <map>

#include "scan/scan.hpp"
#include "support/fat_image.hpp"
#include "support/memory_content.hpp"
#include "support/shelf_rows.hpp"
#include "support/temporary_folder.hpp"

namespace undershelf {

namespace {

std::string text_of(const ByteVector& bytes) {
    return {bytes.begin(), bytes.end()};
}

/// A card with contents in clusters that nothing tells of.
class Unnamed : public ::testing::Test {
  protected:
    Unnamed() : card({.clusters = 3000}) {}

    void fill(fat::Cluster at, const ByteVector& content) {
        const auto whole = text_of(content);
        for (std::size_t n = 0; n < whole.size(); n += 512) card.fill(at++, whole.substr(n, 512));
    }
    std::vector<fat::Cluster> clusters(fat::Cluster at, std::size_t bytes) const {
        std::vector<fat::Cluster> out;
        for (std::size_t n = 0; n < bytes; n += 512) out.push_back(at++);
        return out;
    }
    std::uint64_t put(const std::string& name, fat::Cluster at, const ByteVector& content) {
        return card.put(0, name, u"", clusters(at, content.size()), text_of(content));
    }
    ScanResult run(Narrowing contents = {}, const std::string& shelf = "card.shelf",
                   Progress&& progress = Progress(), Reach reach = Reach::content) {
        ScanOptions options;
        options.source_path = folder.write("card.img", card.bytes());
        options.shelf_path = folder.at(shelf);
        options.reach = reach;
        options.contents = std::move(contents);
        return scan(options, progress);
    }
    /// Unnamed files by where they are.
    std::map<std::uint64_t, ShelfEntry> found(const std::string& name = "card.shelf") const {
        std::map<std::uint64_t, ShelfEntry> out;
        const Shelf shelf(folder.at(name));
        Selection unnamed;
        unnamed.origins = {Origin::unnamed};
        shelf.for_each(unnamed, {}, [&](const ShelfEntry& e) {
            if (!e.is_dir) out.emplace(shelf.pieces(e.id).front().source, e);
            return true;
        });
        return out;
    }

    test::FatImage card;
    test::TemporaryFolder folder;
};

/// Leaves once so many were found.
struct StopAfter final : Progress {
    explicit StopAfter(std::uint64_t n) : most(n) {}
    void stage(std::string_view what) override { looking |= what == "looking for contents without names"; }
    void found(std::uint64_t entries) override { stop |= looking && entries >= most; }
    bool stopped() const override { return stop; }
    std::uint64_t most;
    bool looking = false, stop = false;
};

}  // namespace

TEST_F(Unnamed, StandInTheSpaceOfTheirVolumeUnderTheirKind) {
    const auto picture = test::png_file();
    fill(100, picture);
    fill(200, test::libretto(1300));
    EXPECT_EQ(run().unnamed, 2u);
    const auto all = found();
    ASSERT_EQ(all.size(), 2u);
    const auto& poster = all.at(card.cluster_offset(100));
    EXPECT_EQ(poster.volume, 1);
    EXPECT_EQ(poster.size, picture.size());
    EXPECT_EQ(poster.folder_path, "unnamed/picture");
    EXPECT_EQ(poster.kind, Kind::picture);
    EXPECT_EQ(poster.format, "png");
    EXPECT_EQ(poster.rating.grade, Grade::verified);
    const auto& script = all.at(card.cluster_offset(200));
    EXPECT_EQ(script.size, 1300u);
    EXPECT_EQ(script.folder_path, "unnamed/text");
    EXPECT_LT(script.rating.grade, Grade::verified);
    EXPECT_TRUE(run().was_complete);
}

TEST_F(Unnamed, AreRatedByHowTheyEnd) {
    fill(100, test::png_file());
    // Where others hold, one that only says where it ends most likely does.
    for (fat::Cluster i = 0; i < 8; ++i) fill(600 + 20 * i, test::gif_file());
    fill(200, test::wav_file());
    auto torn = test::zip_file({{"a.txt", test::libretto(9000)}, {"b.txt", test::libretto(9000)}});
    torn.resize(torn.size() / 512 * 512 - 1024);
    fill(300, torn);
    auto tail = test::libretto(1300);
    tail[0] = 'p';
    fill(400, tail);
    run();
    const auto all = found();
    ASSERT_EQ(all.size(), 12u);
    EXPECT_EQ(all.at(card.cluster_offset(100)).rating.grade, Grade::verified);
    EXPECT_EQ(all.at(card.cluster_offset(200)).rating.grade, Grade::likely);
    const auto& broken = all.at(card.cluster_offset(300));
    EXPECT_EQ(broken.rating.grade, Grade::partial);
    EXPECT_LT(broken.rating.chance, 0.05);
    EXPECT_EQ(broken.size, torn.size());
    const auto& text = all.at(card.cluster_offset(400));
    EXPECT_EQ(text.rating.grade, Grade::doubtful);
    const Shelf shelf(folder.at("card.shelf"));
    EXPECT_TRUE(has_fact(shelf.evidence(text.id), Fact::begins_within));
    double product = 1;
    for (const auto& e : shelf.evidence(text.id)) product *= e.chance;
    EXPECT_NEAR(product, text.rating.chance, 1e-4);
}

TEST_F(Unnamed, AreNotWhatSomebodyHas) {
    const auto picture = test::png_file();
    put("LIVE    PNG", 100, picture);
    card.erase(put("LOST    PNG", 200, picture));
    // Under a name that promises something else.
    card.erase(put("WRONG   FLA", 300, test::libretto(3000)));
    card.erase(put("WRONG   ZIP", 400, picture));
    fill(500, test::flac_file());
    // What a live file holds as well, and what a lost one does.
    fill(600, picture);
    const auto lost = test::gif_file();
    card.erase(put("LOST    GIF", 700, lost));
    fill(800, lost);
    run();
    const auto all = found();
    EXPECT_FALSE(all.count(card.cluster_offset(600)));
    EXPECT_FALSE(all.count(card.cluster_offset(800)));
    Selection pictures;
    pictures.under = {"unnamed/picture"};
    EXPECT_EQ(Shelf(folder.at("card.shelf")).count(pictures), 0u) << "nor is there a folder of none";
    EXPECT_FALSE(all.count(card.cluster_offset(100)));
    EXPECT_FALSE(all.count(card.cluster_offset(200)));
    EXPECT_TRUE(all.count(card.cluster_offset(500)));
    // The one that contradicts its name holds the very same bytes as its named entry: that is enough.
    EXPECT_FALSE(all.count(card.cluster_offset(400)));
}

TEST_F(Unnamed, StandInClustersOfLostFilesThatTheyContradict) {
    const auto picture = test::png_file();
    card.erase(put("SCRIPT  ZIP", 400, ByteVector(9 * 512, 'x')));
    fill(402, picture);
    fill(400, test::gif_file());
    run();
    EXPECT_TRUE(found().count(card.cluster_offset(400)));
    EXPECT_TRUE(found().count(card.cluster_offset(402)));
}

TEST_F(Unnamed, AreGoneOnWithAfterAnInterruption) {
    fill(100, test::png_file());
    fill(200, test::libretto(1300));
    fill(300, test::flac_file());
    // More than are measured at a time.
    for (fat::Cluster i = 0; i < 30; ++i) fill(600 + 20 * i, test::gif_file());
    run({}, "whole.shelf");
    EXPECT_TRUE(run({}, "card.shelf", StopAfter(2)).interrupted);
    EXPECT_GE(found().size(), 1u);
    EXPECT_LT(found().size(), 33u);
    EXPECT_FALSE(run().interrupted);
    EXPECT_EQ(test::shelf_rows(folder.at("card.shelf")), test::shelf_rows(folder.at("whole.shelf")));
}

TEST_F(Unnamed, KeepTheirIdsWhenMoreIsAskedFor) {
    fill(100, test::png_file());
    fill(300, test::flac_file());
    run({{Kind::audio}, {}, {}});
    ASSERT_EQ(found().size(), 1u);
    const auto id = found().at(card.cluster_offset(300)).id;
    EXPECT_FALSE(run({{Kind::picture}, {}, {}}).was_complete);
    ASSERT_EQ(found().size(), 2u);
    EXPECT_EQ(found().at(card.cluster_offset(300)).id, id);
    EXPECT_TRUE(run({{Kind::picture}, {}, {}}).was_complete);
    EXPECT_FALSE(run().was_complete);
}

TEST_F(Unnamed, AreFoundInAShelfThatWasSweptBefore) {
    fill(100, test::png_file());
    run({}, "whole.shelf");
    run({}, "card.shelf", Progress(), Reach::traces);
    EXPECT_TRUE(found().empty());
    run();
    EXPECT_EQ(found().size(), 1u);
    EXPECT_EQ(test::shelf_rows(folder.at("card.shelf")), test::shelf_rows(folder.at("whole.shelf")));
}

}  // namespace undershelf
