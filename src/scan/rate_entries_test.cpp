#include "scan/rate_entries.hpp"

#include <gtest/gtest.h>

#include <map>

#include "scan/scan.hpp"
#include "support/exfat_image.hpp"
#include "support/fat_image.hpp"
#include "support/temporary_folder.hpp"

namespace undershelf {

namespace {

/// All entries of a card by name, as a scan rates them.
std::map<std::string, ShelfEntry> rated(const ByteVector& bytes) {
    const test::TemporaryFolder folder;
    Progress progress;
    scan({folder.write("card.img", bytes), folder.at("card.shelf"), {}, {}}, progress);
    std::map<std::string, ShelfEntry> out;
    Shelf(folder.at("card.shelf")).for_each({}, {}, [&](const ShelfEntry& e) {
        out.emplace(e.name, e);
        return true;
    });
    return out;
}

std::map<std::string, ShelfEntry> rated(test::FatImage& card) {
    return rated(card.bytes());
}

std::string text(const std::string& name, std::size_t clusters) {
    return test::sample_text(name, clusters * 512);
}

}  // namespace

TEST(RateEntries, DoubtsBothOfTwoFilesWrittenInTurns) {
    test::FatImage card;
    const auto a = card.put(0, "FIRST   TXT", u"first cue.txt", {10, 11, 14, 15}, text("First", 4));
    const auto b = card.put(0, "SECOND  TXT", u"second cue.txt", {12, 13, 16, 17}, text("Second", 4));
    const auto c = card.put(0, "THIRD   TXT", u"third cue.txt", {20, 21, 22}, text("Third", 3));
    for (const auto slot : {a, b, c}) card.erase(slot);
    const auto seen = rated(card);
    EXPECT_EQ(seen.at("first cue.txt").rating.grade, Grade::partial);
    EXPECT_EQ(seen.at("second cue.txt").rating.grade, Grade::doubtful);
    EXPECT_EQ(seen.at("third cue.txt").rating.grade, Grade::likely);
}

TEST(RateEntries, LaysAFileAroundLostOnesThatWereThere) {
    test::FatImage card;
    std::string png(2 * 512, 1);
    png.replace(0, 8, "\x89PNG\r\n\x1a\n");
    const auto picture = card.put(0, "POSTER  PNG", u"poster.png", {12, 13}, png);
    const auto late = card.put(0, "LATE    TXT", u"late.txt", {10, 11, 14, 15}, text("Late", 4));
    for (const auto slot : {picture, late}) card.erase(slot);
    card.bytes()[late + 25] = 0x5B;  // DIR_WrtDate: years after the picture
    const test::TemporaryFolder folder;
    Progress progress;
    scan({folder.write("card.img", card.bytes()), folder.at("card.shelf"), {}, {}}, progress);
    const Shelf shelf(folder.at("card.shelf"));
    Selection one;
    one.names = {"late.txt"};
    shelf.for_each(one, {}, [&](const ShelfEntry& e) {
        EXPECT_EQ(e.rating.grade, Grade::likely);  // a text throughout
        EXPECT_EQ(total_length(shelf.claims(e.id)), 4u * 512);
        const auto pieces = shelf.pieces(e.id);
        EXPECT_EQ(pieces.size(), 2u);
        EXPECT_EQ(pieces.back().source, card.cluster_offset(14));
        EXPECT_TRUE(has_fact(shelf.evidence(e.id), Fact::steps_over_lost));
        EXPECT_FALSE(has_fact(shelf.evidence(e.id), Fact::contiguous));
        return true;
    });
    EXPECT_EQ(shelf.count(one), 1u);
}

TEST(RateEntries, AGuessThatEndsAtAProvenStartHarmsNobodyBehindIt) {
    test::FatImage card;
    // Written last, over a gap that a deleted picture had: its guess runs through that picture, which is
    // older, and through a script after it, which is older, too.
    const auto picture =
        card.put(0, "POSTER  PNG", u"", {12}, "\x89PNG\r\n\x1a\n" + text("Poster", 1).substr(8));
    const auto script = card.put(0, "ACT1    TXT", u"act one.txt", {14, 15}, text("Act one", 2));
    const auto late = card.put(0, "LATE    TXT", u"late.txt", {10, 11, 40, 41, 42, 43}, text("Late", 6));
    for (const auto slot : {picture, script, late}) card.erase(slot);
    card.bytes()[late + 25] = 0x5B;  // DIR_WrtDate: years after the others
    const auto seen = rated(card);
    EXPECT_EQ(seen.at("_OSTER.PNG").rating.grade, Grade::likely);
    EXPECT_EQ(seen.at("act one.txt").rating.grade, Grade::likely);
    EXPECT_EQ(seen.at("late.txt").rating.grade, Grade::partial);
}

TEST(RateEntries, LearnsFromLiveFilesHowStepsGo) {
    const auto lost_grade = [](bool as_guessed) {
        test::FatImage card;
        for (fat::Cluster at = 10; at < 100; at += 20) {
            const auto n = std::to_string(at);
            card.put(0, "OLD" + n + "   TXT", u"", {at + 2}, "old");
            // Around the obstacle to the next free cluster, or to one further on.
            const auto next = at + (as_guessed ? 3 : 5);
            card.fill(at + 3, text(n, 1));
            const auto slot = card.put(0, "CUES" + n + "  DAT", u"", {at, at + 1, next}, text(n, 3));
            if (at == 90) card.erase(slot);
        }
        return rated(card).at("_UES90.DAT").rating.grade;
    };
    EXPECT_EQ(lost_grade(true), Grade::likely);
    EXPECT_EQ(lost_grade(false), Grade::doubtful);
}

TEST(RateEntries, AFileThatWasMovedIsNoRivalOfItself) {
    // A move leaves a dead set where it was, a later delete one where it came to.
    test::exfat::Image card;
    using test::exfat::cluster_size;
    using test::exfat::root;
    constexpr std::uint32_t born = 0x5A645000, later = 0x5A645020;
    for (const auto& [name, start] :
         {std::pair<const char16_t*, clusters::Cluster>{u"Orders", 20}, {u"Bin", 21}}) {
        card.add(root, {.name = name, .start = start, .size = cluster_size, .folder = true});
        card.use(start);
    }
    const auto lose = [&](clusters::Cluster folder, const char16_t* name, clusters::Cluster start,
                          std::uint32_t created) {
        card.erase(card.add(folder, {.name = name, .start = start, .size = 900, .created = created}));
        card.fill(start, test::sample_text("order", 900));
    };
    lose(20, u"order.txt", 50, born);
    lose(21, u"1.txt", 50, born);
    // Another file of this length had the cluster before.
    lose(20, u"log 1.txt", 60, born);
    lose(20, u"log 2.txt", 60, later);
    const auto seen = rated(card.bytes);
    EXPECT_EQ(seen.at("1.txt").rating.grade, Grade::likely);
    EXPECT_EQ(seen.at("1.txt").earlier_names, std::vector<std::string>{"Orders/order.txt"});
    EXPECT_FALSE(seen.count("order.txt"));
    EXPECT_NE(seen.at("log 1.txt").rating.grade, Grade::likely);
}

}  // namespace undershelf
