#include "clusters/name_series.hpp"

#include <gtest/gtest.h>

namespace undershelf::clusters {

TEST(NameSeries, GoesOnByItsOwnStep) {
    EXPECT_TRUE(series_goes_on("cue 0008.gz", "cue 0009.gz", "cue 0010.gz"));
    EXPECT_TRUE(series_goes_on("cue 8.gz", "cue 9.gz", "cue 11.gz")) << "one name is in neither cluster";
    EXPECT_TRUE(series_goes_on("act 2 cue 676.gz", "act 2 cue 678.gz", "act 2 cue 680.gz"));
    EXPECT_FALSE(series_goes_on("act 2 cue 676.gz", "act 2 cue 678.gz", "act 2 cue 681.gz"));
    EXPECT_FALSE(series_goes_on("act 2 cue 676.gz", "act 2 cue 678.gz", "act 3 cue 680.gz"));
    EXPECT_FALSE(series_goes_on("cue 8.gz", "cue 9.gz", "cue 12.gz"));
}

TEST(NameSeries, IsNoneOfOtherNames) {
    EXPECT_FALSE(series_goes_on("fox.gz", "owl.gz", "hare.gz"));
    EXPECT_FALSE(series_goes_on("fox 1.gz", "owl 2.gz", "owl 3.gz"));
    EXPECT_FALSE(series_goes_on("fox 1.gz", "fox 1.gz", "fox 1.gz"));
    EXPECT_FALSE(series_goes_on("fox 1", "fox 2", "fox 99999999999999999999"));
}

}  // namespace undershelf::clusters
