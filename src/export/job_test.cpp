#include "export/job.hpp"

#include <gmock/gmock.h>
#include <gtest/gtest.h>

namespace undershelf {

namespace {
const SourceRecord card{"/cards/card.img", 1000, 512};

ExportOptions lost_pictures() {
    ExportOptions o;
    o.to = {"out"};
    o.selection.lost = true;
    o.selection.exts = {"jpg", "png"};
    o.selection.grades = {{Grade::likely, true}};
    return o;
}
}  // namespace

TEST(DescribeJob, SaysWhatWasAskedFor) {
    const auto text = describe_job(card, lost_pictures());
    for (const char* part : {"\"source\":\"/cards/card.img\"", "\"bytes\":1000", "\"lost\":true",
                             "\"ext\":[\"jpg\",\"png\"]", "\"grade\":[\"likely+\"]", "\"tree\":\"keep\""})
        EXPECT_THAT(text, ::testing::HasSubstr(part));
    EXPECT_EQ(text.find('\n'), std::string::npos);
    EXPECT_EQ(text.find("SELECT"), std::string::npos);
}

TEST(DescribeJob, IsTheSameForTheSameJobAlone) {
    const auto job = describe_job(card, lost_pictures());
    auto elsewhere = lost_pictures();
    elsewhere.to = {"another folder"};
    EXPECT_EQ(describe_job(card, elsewhere), job);
    const auto differs = [&](auto change) {
        auto other = lost_pictures();
        change(other);
        return describe_job(card, other) != job;
    };
    EXPECT_TRUE(differs([](ExportOptions& o) { o.tree = ExportTree::flat; }));
    EXPECT_TRUE(differs([](ExportOptions& o) { o.selection.lost = false; }));
    EXPECT_TRUE(differs([](ExportOptions& o) { o.selection.exts = {"jpg"}; }));
    EXPECT_TRUE(differs([](ExportOptions& o) { o.selection.grades = {{Grade::likely, false}}; }));
    EXPECT_TRUE(differs([](ExportOptions& o) { o.selection.size = Between<std::uint64_t>{5, {}}; }));
    EXPECT_TRUE(differs([](ExportOptions& o) { o.selection.modified = Between<std::int64_t>{{}, 5}; }));
    EXPECT_TRUE(differs([](ExportOptions& o) { o.selection.marked = true; }));
    EXPECT_TRUE(differs([](ExportOptions& o) { o.selection.same_as = 3; }));
    EXPECT_TRUE(differs([](ExportOptions& o) { o.selection.under = {"Scripts"}; }));
    EXPECT_TRUE(differs([](ExportOptions& o) { o.selection.contents = {"docx"}; }));
    EXPECT_TRUE(differs([](ExportOptions& o) { o.selection.checked = {Strength::strong}; }));
    EXPECT_TRUE(differs([](ExportOptions& o) { o.selection.broken = true; }));
    EXPECT_TRUE(differs([](ExportOptions& o) { o.selection.unread = true; }));
    EXPECT_TRUE(differs([](ExportOptions& o) { o.selection.no_helpers = true; }));
    EXPECT_NE(describe_job({"/cards/other.img", 1000, 512}, lost_pictures()), job);
}

TEST(DescribeJob, TakesNamesThatAreNoText) {
    EXPECT_FALSE(describe_job({"/cards/\xff.img", 1000, 512}, lost_pictures()).empty());
}

TEST(ExportTree, HasAWordForEach) {
    for (const auto tree : {ExportTree::keep, ExportTree::flat, ExportTree::kind, ExportTree::month})
        EXPECT_EQ(export_tree_from_word(word(tree)), tree);
    EXPECT_FALSE(export_tree_from_word("year"));
}

}  // namespace undershelf
