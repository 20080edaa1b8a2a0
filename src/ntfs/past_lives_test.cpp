#include "ntfs/past_lives.hpp"

#include <gtest/gtest.h>

namespace undershelf::ntfs {

namespace {
Mention mention(const std::u16string& name, Mention::What what, std::optional<std::int64_t> ticks) {
    Mention m;
    m.what = what;
    m.file = {40, 3};
    m.folder = {30, 1};
    m.name = name;
    if (ticks) m.when = Timestamp{*ticks, 0};
    return m;
}
}  // namespace

TEST(NtfsPastLives, LastNameIsTheLatestThatWasNotGivenUp) {
    PastLives past;
    past.take(mention(u"log.txt", Mention::What::named, std::nullopt));
    past.take(mention(u"a.txt", Mention::What::named, 10));
    past.take(mention(u"a.txt", Mention::What::renamed, 20));
    past.take(mention(u"b.txt", Mention::What::named, 20));
    past.take(mention(u"b.txt", Mention::What::deleted, 30));
    const auto* life = past.find({40, 3});
    ASSERT_TRUE(life);
    EXPECT_EQ(life->names.size(), 3u);
    EXPECT_EQ(life->names[life->last].name, u"b.txt");
    EXPECT_EQ(life->deleted->ticks, 30);
    EXPECT_FALSE(past.find({40, 4}));
    EXPECT_FALSE(past.full());
}

TEST(NtfsPastLives, KeepsAFewNamesOfEach) {
    PastLives past;
    for (char16_t c = u'a'; c <= u'z'; ++c) past.take(mention(std::u16string(3, c), Mention::What::named, c));
    EXPECT_EQ(past.find({40, 3})->names.size(), 16u);
}

}  // namespace undershelf::ntfs
