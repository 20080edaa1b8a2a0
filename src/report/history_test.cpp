#include "report/history.hpp"

#include <gmock/gmock.h>
#include <gtest/gtest.h>

namespace undershelf {

namespace {

using ::testing::ElementsAre;
using ::testing::HasSubstr;

Timestamp day(int month, int day) {
    return {seconds_from_civil({2025, month, day, 12, 0, 0}) * Timestamp::per_second, 0};
}

std::vector<Volume> formatted_card() {
    std::vector<Volume> out(2);
    out[0].number = 1;
    out[0].file_system = "FAT32";
    out[0].label = "CAMERA";
    out[0].size = out[1].size = 1 << 20;
    out[1].number = 2;
    out[1].file_system = "exFAT";
    out[1].state = VolumeState::former;
    return out;
}

ShelfEntry file(int volume, Origin origin, const MaybeTime& created) {
    ShelfEntry out;
    out.volume = volume;
    out.origin = origin;
    out.created = created;
    return out;
}

}  // namespace

TEST(History, TellsBetweenWhichDatesAFormatWas) {
    const auto volumes = formatted_card();
    History history(volumes);
    history.look_at(file(2, Origin::former, day(3, 1)));
    history.look_at(file(2, Origin::former, day(2, 1)));
    history.look_at(file(1, Origin::live, day(5, 2)));
    history.look_at(file(1, Origin::live, day(4, 2)));
    EXPECT_THAT(history.sentences({}),
                ElementsAre(HasSubstr(
                    "exFAT volume was formatted as FAT32 between 2025-03-01 12:00 and 2025-04-02 12:00")));
}

TEST(History, SaysWhereDatesContradictEachOther) {
    const auto volumes = formatted_card();
    History history(volumes);
    history.look_at(file(2, Origin::former, day(6, 1)));
    history.look_at(file(1, Origin::live, day(4, 2)));
    EXPECT_THAT(history.sentences({}), ElementsAre(HasSubstr("contradict")));
}

TEST(History, TellsWhatWasDeletedErasedAndUnreadable) {
    auto volumes = formatted_card();
    volumes.pop_back();
    History history(volumes);
    auto gone = file(1, Origin::deleted, {});
    gone.deleted = day(7, 3);
    history.look_at(gone);
    Facts facts;
    facts.discards.push_back({1, 7, 9});
    facts.unreadable = 4096;
    EXPECT_THAT(history.sentences(facts),
                ElementsAre("1 file was deleted from the volume \"CAMERA\" (FAT32), on 2025-07-03 12:00.",
                            HasSubstr("7 of 9"), HasSubstr("4.0 KiB")));
    const History nothing(volumes);
    EXPECT_THAT(nothing.sentences({}), ElementsAre(HasSubstr("Nothing was deleted")));
}

}  // namespace undershelf
