#include "volume/moved_files.hpp"

#include <gtest/gtest.h>

namespace undershelf {

namespace {

constexpr std::int64_t second = Timestamp::per_second, midnight = 19'000ll * 86'400 * second;
constexpr std::int64_t noon = midnight + 43'200 * second;

Timestamp at(std::int64_t ticks, std::int16_t zone = Timestamp::local) {
    return {ticks, zone};
}

LostPlace place(std::int64_t id, const std::string& path) {
    LostPlace p;
    p.id = id;
    p.volume = 1;
    p.start = 0x40000;
    p.size = 5000;
    p.created = p.modified = at(noon);
    p.folder_path = std::make_shared<const std::string>(folder_in(path));
    p.name = name_in(path);
    p.ext = "wav";
    p.slot = static_cast<std::uint64_t>(id) * 64;
    p.folder = id;
    return p;
}

std::vector<std::int64_t> ids(const std::vector<LostPlace>& group) {
    std::vector<std::int64_t> out;
    for (const auto& p : group) out.push_back(p.id);
    return out;
}

/// Are two entries one file, after `change` on the second?
template <class Change>
bool are_one(Change change, LostPlace first = place(1, "Sound/owl.wav")) {
    auto other = place(2, "Old/owl.wav");
    change(other);
    return !group_moved({first, other}).empty();
}

LostPlace without_birth(LostPlace p) {
    p.created.reset();
    return p;
}

}  // namespace

TEST(MovedFiles, HaveOneStartLengthAndBirth) {
    EXPECT_TRUE(are_one([](LostPlace&) {}));
    EXPECT_TRUE(are_one([](LostPlace& p) { p.modified = at(noon + second); }));
    EXPECT_TRUE(are_one([](LostPlace& p) { p.ext = "bak"; }));
    EXPECT_FALSE(are_one([](LostPlace& p) { *p.start += 4096; }));
    EXPECT_FALSE(are_one([](LostPlace& p) { p.start.reset(); }));
    EXPECT_FALSE(are_one([](LostPlace& p) { ++p.size; }));
    EXPECT_FALSE(are_one([](LostPlace& p) { p.created = at(noon + second); }));
    EXPECT_FALSE(are_one([](LostPlace& p) { p.volume = 2; }));
    EXPECT_FALSE(are_one([](LostPlace& p) { p.is_dir = true; }));
    EXPECT_FALSE(are_one([](LostPlace& p) { p.created.reset(); }));
}

TEST(MovedFiles, NeedMoreWhereNoBirthIsRecorded) {
    const auto first = without_birth(place(1, "LOG/A.LOG"));
    const auto one = [&](auto change) {
        return are_one(
            [&](LostPlace& p) {
                p.created.reset();
                change(p);
            },
            first);
    };
    EXPECT_TRUE(one([](LostPlace&) {}));
    // Rotated logs of one size in one cluster.
    EXPECT_FALSE(one([](LostPlace& p) { p.modified = at(noon + 3600 * second); }));
    EXPECT_FALSE(one([](LostPlace& p) { p.ext = "txt"; }));
    EXPECT_FALSE(one([](LostPlace& p) { p.modified.reset(); }));
    // What a bin's record says needs neither.
    const auto binned = [](LostPlace& p) {
        p.modified.reset();
        p.binned = true;
        p.told = "log/a.log";
    };
    EXPECT_TRUE(one(binned));
    EXPECT_FALSE(one([&](LostPlace& p) {
        binned(p);
        p.told = "LOG/B.LOG";
    }));
}

TEST(MovedFiles, AreNotToldByAClockThatNobodySet) {
    for (const auto& unset : {at(midnight), at(midnight - 3600 * second, 60)}) {
        auto first = place(1, "DCIM/1.WAV");
        first.created = first.modified = unset;
        EXPECT_FALSE(are_one([&](LostPlace& p) { p.created = p.modified = unset; }, first));
    }
}

TEST(MovedFiles, OfABirthAtMidnightAreToldByTheirChange) {
    // Some writers keep the day of birth alone.
    auto first = place(1, "DCIM/1.WAV");
    first.created = at(midnight);
    EXPECT_TRUE(are_one([&](LostPlace& p) { p.created = first.created; }, first));
    EXPECT_FALSE(are_one([&](LostPlace& p) { p.created = at(midnight + 86'400 * second); }, first));
    EXPECT_FALSE(are_one(
        [&](LostPlace& p) {
            p.created = first.created;
            p.ext = "txt";
        },
        first));
}

TEST(MovedFiles, AreNotMoreThanAnybodyMoves) {
    std::vector<LostPlace> places;
    for (int i = 0; i < 1000; ++i) places.push_back(place(i, "a/owl.wav"));
    const auto groups = group_moved(std::move(places));
    ASSERT_EQ(groups.size(), 1u);
    EXPECT_EQ(groups[0].size(), most_earlier_names + 1);
    EXPECT_EQ(groups[0].front().id, 999);
}

TEST(MovedFiles, AreTwoWhereBothWereInUse) {
    auto first = place(1, "a");
    first.in_use = true;
    EXPECT_FALSE(are_one([](LostPlace& p) { p.in_use = true; }, first));
    EXPECT_TRUE(are_one([](LostPlace&) {}, first));
}

TEST(MovedFiles, TellWhichPlaceCameLast) {
    const auto order = [](auto change) {
        auto first = place(1, "Sound/owl.wav"), other = place(2, "Old/owl.wav");
        change(first, other);
        const auto group = group_moved({first, other}).at(0);
        return std::pair(ids(group), is_known_later(group[0], group[1]));
    };
    using Ids = std::vector<std::int64_t>;
    const std::pair first_known(Ids{1, 2}, true);
    EXPECT_EQ(order([](auto& a, auto&) { a.binned = true; }), first_known);
    EXPECT_EQ(order([](auto& a, auto&) { a.in_use = true; }), first_known);
    EXPECT_EQ(order([](auto& a, auto&) { a.modified = at(noon + second); }), first_known);
    EXPECT_EQ(order([](auto& a, auto& b) {
                  a.accessed = at(noon + second);
                  b.accessed = at(noon);
              }),
              first_known);
    // It was not born in a folder that was made after it.
    EXPECT_EQ(order([](auto& a, auto& b) {
                  a.folder_born = noon + second;
                  b.folder_born = noon - second;
              }),
              first_known);
    EXPECT_EQ(order([](auto& a, auto& b) { b.folder = a.folder; }), std::pair(Ids({2, 1}), true));
    // Nothing tells: the later entry on the volume is taken, and that is said.
    EXPECT_EQ(order([](auto&, auto&) {}), std::pair(Ids({2, 1}), false));
}

TEST(MovedFiles, AreANameAloneWhereABinsRecordCallsThemSo) {
    auto name = place(1, "Sound/owl.wav"), binned = place(2, "$RECYCLE.BIN/$RABC123.wav");
    for (auto* p : {&name, &binned}) {
        p->start.reset();
        p->created.reset();
    }
    binned.binned = true;
    binned.told = "Sound/owl.wav";
    const auto groups = group_moved({name, binned});
    ASSERT_EQ(groups.size(), 1u);
    EXPECT_EQ(ids(groups[0]), (std::vector<std::int64_t>{2, 1}));
    // What has a content of its own is another file.
    name.layout = Layout::known;
    EXPECT_TRUE(group_moved({name, binned}).empty());
    name.layout = Layout::none;
    ++name.size;
    EXPECT_TRUE(group_moved({name, binned}).empty());
}

}  // namespace undershelf
