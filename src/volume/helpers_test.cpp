#include "volume/helpers.hpp"

#include <gtest/gtest.h>

namespace undershelf {

namespace {
bool serves(const std::string& name, NameCertainty certainty = NameCertainty::full) {
    Entry e;
    e.name = name;
    e.name_certainty = certainty;
    return serves_a_viewer(e);
}
}  // namespace

TEST(Helpers, AreWhatViewersKeep) {
    for (const char* name : {".DS_Store", "Thumbs.db", "THUMBS.DB", "desktop.ini", "._owl.wav"})
        EXPECT_TRUE(serves(name)) << name;
    // A photo's sidecar has what its owner did.
    for (const char* name : {"owl.xmp", "MVI_0001.THM", "IMG_0001.AAE", "thumbs.db.txt", "._", "DS_Store"})
        EXPECT_FALSE(serves(name)) << name;
    EXPECT_TRUE(serves("_HUMBS.DB", NameCertainty::first_letter_unknown));
    EXPECT_FALSE(serves("_HUMBS.DB"));
    EXPECT_FALSE(serves("Thumbs.db", NameCertainty::made_up));
}

}  // namespace undershelf
