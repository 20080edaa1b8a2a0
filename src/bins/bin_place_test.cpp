#include "bins/bin_place.hpp"

#include <gtest/gtest.h>

namespace undershelf {

namespace {
std::string thrown_away(std::string_view path) {
    const auto place = bin_place_of(path);
    return place ? place->folder + " > " + place->inside : "";
}
}  // namespace

TEST(BinPlace, KnowsTheUsualBins) {
    EXPECT_EQ(thrown_away("$RECYCLE.BIN/$RABC123.txt"), "$RECYCLE.BIN > $RABC123.txt");
    EXPECT_EQ(thrown_away("$Recycle.Bin/S-1-5-21-7/$RD/inner.txt"),
              "$Recycle.Bin/S-1-5-21-7 > $RD/inner.txt");
    EXPECT_EQ(thrown_away("RECYCLER/S-1-5-21-7/Dc1.doc"), "RECYCLER/S-1-5-21-7 > Dc1.doc");
    EXPECT_EQ(thrown_away("_ECYCLED/DE2.XLS"), "_ECYCLED > DE2.XLS");
    EXPECT_EQ(thrown_away(".Trash-1000/files/a/b"), ".Trash-1000/files > a/b");
    EXPECT_EQ(thrown_away(".Trash/1000/expunged/123"), ".Trash/1000/expunged > 123");
    EXPECT_EQ(thrown_away(".Trashes/501/owl.wav"), ".Trashes/501 > owl.wav");
    for (const char* path : {"", "Recycle", "RECYCLED books/a", ".Trash-1000", ".Trash-1000/info/a.trashinfo",
                             ".Trashes", "Scripts/$RECYCLE.BIN/a"})
        EXPECT_EQ(thrown_away(path), "") << path;
}

TEST(BinPlace, KnowsABinsOwnFolders) {
    for (const char* path :
         {"$RECYCLE.BIN", "$RECYCLE.BIN/S-1-5-21-7", "RECYCLED", ".Trash-1000", ".Trash-1000/files",
          ".Trash/1000", ".Trash/1000/info", ".Trashes", ".Trashes/501"})
        EXPECT_TRUE(is_bins_own_folder(path)) << path;
    for (const char* path : {"", "Scripts", "$RECYCLE.BIN/$RD", ".Trash-1000/files/a", ".Trashes/501/a"})
        EXPECT_FALSE(is_bins_own_folder(path)) << path;
}

}  // namespace undershelf
