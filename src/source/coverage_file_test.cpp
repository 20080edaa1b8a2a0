#include "source/coverage_file.hpp"

#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include "base/error.hpp"
#include "support/temporary_folder.hpp"

namespace undershelf {

namespace {

using ::testing::ElementsAre;
using ::testing::HasSubstr;
using State = CoverageState;

class CoverageFile : public ::testing::Test {
  protected:
    std::string trouble_of(const std::string& text) {
        const auto path = folder.write("card.img.coverage.csv", text);
        try {
            read_coverage_file(path);
        } catch (const Error& e) {
            EXPECT_EQ(e.trouble(), Trouble::input);
            return e.what();
        }
        return "none";
    }
    const std::string head = "# size: 4096\n# sector: 512\noffset,length,state\n";
    test::TemporaryFolder folder;
};

}  // namespace

TEST_F(CoverageFile, ComesBackAsItWasWritten) {
    CoverageRecord r(8192);
    r.source = "/dev/made-up";
    r.sector_size = 4096;
    r.serial = "MARIONETTE 7";
    r.part_size = 1 << 20;
    r.samples = {{{0, 4096}, std::string(64, 'a')}};
    r.narrowed = RangeSet({{4096, 4096}});
    r.coverage.set({0, 4096}, State::copied);
    r.coverage.set({4096, 4096}, State::leapt);
    const auto back = read_coverage_file(folder.write("a.csv", text_of(r)));
    EXPECT_EQ(back.source, r.source);
    EXPECT_EQ(back.sector_size, 4096u);
    EXPECT_EQ(back.serial, r.serial);
    EXPECT_EQ(back.part_size, r.part_size);
    ASSERT_EQ(back.samples.size(), 1u);
    EXPECT_EQ(back.samples[0].sha256, r.samples[0].sha256);
    EXPECT_EQ(back.narrowed.ranges(), r.narrowed.ranges());
    EXPECT_EQ(back.coverage, r.coverage);
}

TEST_F(CoverageFile, WhatItLeavesOutIsWaiting) {
    const auto r = read_coverage_file(folder.write("a.csv", head + "512,1024,copied\n"));
    EXPECT_THAT(r.coverage.ranges(State::waiting), ElementsAre(ByteRange{0, 512}, ByteRange{1536, 2560}));
}

TEST_F(CoverageFile, SaysWhatIsWrongAndWhere) {
    EXPECT_THAT(trouble_of(head + "0,1024,copied\n512,512,zeros\n"),
                ::testing::AllOf(HasSubstr("line 5"), HasSubstr("overlaps")));
    EXPECT_THAT(trouble_of(head + "0,8192,copied\n"), HasSubstr("beyond the source's end at 4096"));
    EXPECT_THAT(trouble_of(head + "0,18446744073709551615,copied\n"), HasSubstr("beyond"));
    EXPECT_THAT(trouble_of(head + "512,18446744073709551615,copied\n"), HasSubstr("is not an offset"));
    EXPECT_THAT(trouble_of(head + "0,512,rescued\n"), HasSubstr("one of waiting, copied"));
    EXPECT_THAT(trouble_of(head + "0,512,cop"), HasSubstr("line 4"));
    EXPECT_THAT(trouble_of("offset,length,state\n0,512,copied\n"), HasSubstr("# size: BYTES"));
    EXPECT_THAT(trouble_of("# size: 4096\n# sector: 500\noffset,length,state\n"), HasSubstr("500 bytes"));
    EXPECT_THAT(trouble_of("offset,length\n"), HasSubstr("is not the coverage of an image"));
    EXPECT_THAT(trouble_of(""), HasSubstr("is not the coverage of an image"));
}

TEST_F(CoverageFile, LeavesOutSamplesAndNarrowedPlacesThatCannotBe) {
    const auto r = read_coverage_file(
        folder.write("a.csv", "# sample: 8000,4096,00\n# sample: x\n# narrowed: 4000,512\n" + head));
    EXPECT_TRUE(r.samples.empty());
    EXPECT_TRUE(r.narrowed.empty());
}

TEST_F(CoverageFile, StandsBesideTheImageOrItsParts) {
    EXPECT_EQ(coverage_beside(folder.at("card.img")), std::nullopt);
    const auto coverage = folder.write("card.img.coverage.csv", head);
    EXPECT_EQ(coverage_beside(folder.at("card.img")), coverage);
    folder.write("card.img.001", std::string(512, 'x'));
    EXPECT_EQ(coverage_beside(folder.at("card.img.001")), std::nullopt);
    folder.write("card.img.002", std::string(512, 'x'));
    EXPECT_EQ(coverage_beside(folder.at("card.img.001")), coverage);
}

TEST_F(CoverageFile, AnImageSaysWhatOfItIsMissingAndWhy) {
    const auto image = folder.write("card.img", std::string(4096, 'x'));
    folder.write(
        "card.img.coverage.csv",
        head + "0,1024,copied\n1024,512,unreadable\n1536,512,leapt\n2048,1024,waiting\n3072,1024,zeros\n");
    const auto source = open_source(image);
    EXPECT_THAT(source->unreadable().ranges(), ElementsAre(ByteRange{1024, 2048}));
    EXPECT_THAT(source->not_copied().ranges(), ElementsAre(ByteRange{1536, 1536}));
    ByteVector bytes(4096);
    EXPECT_THAT(source->read(0, bytes), ElementsAre(ByteRange{1024, 2048}));
    EXPECT_EQ(bytes[1023], 'x');
    EXPECT_EQ(bytes[1024], 0);
}

TEST_F(CoverageFile, WhatIsCutOffFromAnImageIsNotCopied) {
    const auto image = folder.write("card.img", std::string(1000, 'x'));
    folder.write("card.img.coverage.csv", head + "0,4096,copied\n");
    const auto source = open_source(image);
    EXPECT_EQ(source->size(), 4096u);
    EXPECT_THAT(source->not_copied().ranges(), ElementsAre(ByteRange{1000, 3096}));
}

TEST_F(CoverageFile, OfAnotherImageIsRefused) {
    const auto image = folder.write("card.img", std::string(5000, 'x'));
    folder.write("card.img.coverage.csv", head + "0,4096,copied\n");
    EXPECT_THROW(open_source(image), Error);
}

TEST_F(CoverageFile, HasTheSectorSizeOfTheSource) {
    const auto image = folder.write("card.img", std::string(8192, 'x'));
    folder.write("card.img.coverage.csv",
                 "# size: 8192\n# sector: 4096\noffset,length,state\n0,8192,copied\n");
    EXPECT_EQ(open_source(image)->sector_size(), 4096u);
}

}  // namespace undershelf
