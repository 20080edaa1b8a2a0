#include "answers/planner.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>
#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <nlohmann/json.hpp>

namespace undershelf {

namespace {

using ::testing::AllOf;
using ::testing::HasSubstr;
using ::testing::Not;
using Pass = Facts::Pass;

constexpr std::uint64_t mib = 1 << 20;

/// A card of the theatre, scanned plainly: one volume with live files, nothing lost, nothing in free space.
Facts scanned_card() {
    Facts f;
    f.asked = Asked::summary;
    f.source = "card.img";
    f.shelf = "card.shelf";
    f.size = 64 * mib;
    f.volumes = {{.number = 1, .size = 64 * mib, .live_files = 90, .live_bytes = 20 * mib, .files = 120}};
    f.space = SpaceLook{40 * mib, 40 * mib, 0, 0, 0};
    f.sweep_seconds = 2;
    f.content_seconds = 200;
    f.live.files = 90;
    return f;
}

Facts card_with_lost(std::uint64_t likely, std::uint64_t doubtful = 0, std::uint64_t gone = 0) {
    auto f = scanned_card();
    f.lost.by_grade[static_cast<std::size_t>(Grade::likely)] = likely;
    f.lost.by_grade[static_cast<std::size_t>(Grade::doubtful)] = doubtful;
    f.lost.by_grade[static_cast<std::size_t>(Grade::gone)] = gone;
    f.lost.files = likely + doubtful + gone;
    f.without_contents = gone;
    if (doubtful) f.a_doubtful_one = 17;
    return f;
}

Facts looked_at(const char* source) {
    Facts f;
    f.asked = Asked::inspect;
    f.source = source;
    f.size = 64 * mib;
    f.volumes = {{.number = 1, .size = 64 * mib}};
    return f;
}

/// A source on which no volume was found.
Facts bare_source(SpaceLook space) {
    auto f = scanned_card();
    f.volumes.clear();
    f.live.files = 0;
    f.space = space;
    return f;
}

Facts with(Facts f, const std::function<void(Facts&)>& change) {
    change(f);
    return f;
}

struct Situation {
    const char* name;
    Facts facts;
    const char* first;  ///< the command of the first step, without `undershelf`; empty for none
    const char* said;   ///< in one of the sentences
    const char* not_said = "never said";
};

const Situation situations[] = {
    // Before a scan.
    {"an image", looked_at("card.img"), "scan card.img", "takes seconds"},
    {"a drive", with(looked_at("/dev/sdb"), [](Facts& f) { f.is_drive = true; }), "capture /dev/sdb IMAGE",
     "Work on an image of it", "unreadable places"},
    {"a failing drive",
     with(looked_at("/dev/sdb"),
          [](Facts& f) {
              f.is_drive = f.failing = true;
              f.unreadable = 4096;
          }),
     "capture /dev/sdb IMAGE --metadata-first", "Copy it before anything else",
     "so that nothing can go wrong"},
    {"a drive that is mounted",
     with(looked_at("/dev/sdb"),
          [](Facts& f) {
              f.mounted_at = {"/media/card", "/media/green room"};
          }),
     "scan /dev/sdb", "umount /media/card '/media/green room'"},
    {"a drive that discards", with(looked_at("/dev/sdb"), [](Facts& f) { f.takes_discards = true; }),
     "scan /dev/sdb", "TRIM"},
    {"an image of a card whose free space is zeros", looked_at("card.img"), "scan card.img", "", "TRIM"},
    {"an unfinished copy", with(looked_at("card.img"), [](Facts& f) { f.not_copied = 9 * mib; }),
     "capture SOURCE card.img", "can be scanned meanwhile"},
    {"no volume", with(looked_at("card.img"), [](Facts& f) { f.volumes.clear(); }), "scan card.img",
     "says by samples"},
    {"a partition without a volume",
     with(looked_at("disk.img"),
          [](Facts& f) {
              f.bare_partitions = {{{mib, 8 * mib}, "0x07"}};
          }),
     "scan disk.img", "1 partition has no volume"},
    {"room that no map tells of", with(looked_at("disk.img"), [](Facts& f) { f.unassigned = 40 * mib; }),
     "scan disk.img", "40.0 MiB belong to no volume"},
    {"settings that were said",
     with(looked_at("card.img"),
          [](Facts& f) {
              f.settings = {"--code-page", "866"};
          }),
     "scan card.img --code-page 866", ""},
    {"an encrypted source",
     with(looked_at("card.img"),
          [](Facts& f) {
              f.volumes = {{.number = 1, .readable = false}};
              f.unread_systems = {{{0, 64 * mib}, "encrypted volume (LUKS)"}};
          }),
     "", "Without its key"},

    // After a plain scan.
    {"an interrupted scan", with(scanned_card(), [](Facts& f) { f.unfinished_reach = "volumes"; }),
     "scan card.img --shelf card.shelf --reach volumes", "goes on from where it came to", "search"},
    {"an interrupted sweep",
     with(card_with_lost(3),
          [](Facts& f) {
              f.sweep = Pass::interrupted;
              f.unfinished_reach = "traces";
              f.checkable = 3;
          }),
     "scan card.img --shelf card.shelf --reach traces", "not finished", "undershelf check"},
    {"starts of files in free space",
     with(card_with_lost(7, 0, 42),
          [](Facts& f) {
              f.space = SpaceLook{8 * mib, 8 * mib, 4 * mib, 46, 0};
          }),
     "scan card.img --shelf card.shelf --reach content", "46 files seem to begin", "undershelf check"},
    {"how long a search takes",
     with(card_with_lost(7, 0, 42),
          [](Facts& f) {
              f.space = SpaceLook{8 * mib, 8 * mib, 4 * mib, 46, 0};
              f.content_seconds = 3 * 3600;
          }),
     "scan card.img --shelf card.shelf --reach content", "about 3 h"},
    {"both passes would help: contents alone",
     with(card_with_lost(7),
          [](Facts& f) {
              f.space = SpaceLook{8 * mib, 8 * mib, 4 * mib, 46, 30};
          }),
     "scan card.img --shelf card.shelf --reach content", "includes the sweep", "--reach traces"},
    {"traces of another volume alone",
     with(card_with_lost(7),
          [](Facts& f) {
              f.space = SpaceLook{8 * mib, 8 * mib, 4 * mib, 0, 30};
          }),
     "scan card.img --shelf card.shelf --reach traces", "Pieces of folders and tables"},
    {"gone names alone", with(card_with_lost(0, 0, 20), [](Facts&) {}), "", "used by other files", "--reach"},
    {"free space of one value", card_with_lost(2), "export card.shelf --to DIR --lost --grade likely+",
     "2 lost files are likely to open", "--reach"},
    {"a large disk that was looked at in part",
     with(card_with_lost(7),
          [](Facts& f) {
              f.space = SpaceLook{900'000 * mib, 32 * mib, 8 * mib, 0, 0};
          }),
     "scan card.img --shelf card.shelf --reach content", "25 % of the space"},
    {"a large disk whose free space is empty",
     with(card_with_lost(7),
          [](Facts& f) {
              f.space = SpaceLook{900'000 * mib, 32 * mib, 4096, 0, 0};
          }),
     "export card.shelf --to DIR --lost --grade likely+", "likely to open", "--reach"},
    {"ext4",
     with(bare_source({60 * mib, 60 * mib, 30 * mib, 30, 0}),
          [](Facts& f) {
              f.unread_systems = {{{0, 64 * mib}, "ext4"}};
          }),
     "scan card.img --shelf card.shelf --reach content", "The ext4 volume is not read by this version"},
    {"a wiped card", bare_source({60 * mib, 60 * mib, 30 * mib, 147, 0}),
     "scan card.img --shelf card.shelf --reach content", "No volume was found, and 147 files"},
    {"a shifted disk with empty files", bare_source({60 * mib, 60 * mib, mib, 0, 3}),
     "scan card.img --shelf card.shelf --reach traces", "No volume was found"},
    {"a head that is gone",
     with(scanned_card(),
          [](Facts& f) {
              f.volumes[0].own_head = false;
              f.space = SpaceLook{8 * mib, 8 * mib, 4 * mib, 0, 8};
          }),
     "scan card.img --shelf card.shelf --reach traces", "the head of volume 1 is gone"},
    {"live files on a volume without a head",
     with(scanned_card(), [](Facts& f) { f.volumes[0].own_head = false; }),
     "export card.shelf --to DIR --grade likely+", "90 live files"},
    {"a bare partition after a scan",
     with(card_with_lost(1),
          [](Facts& f) {
              f.bare_partitions = {{{mib, 8 * mib}, "0x07"}};
              f.space = SpaceLook{8 * mib, 8 * mib, 4 * mib, 0, 8};
          }),
     "scan card.img --shelf card.shelf --reach traces", "The partition at byte 1,048,576"},
    {"freshly formatted",
     with(scanned_card(),
          [](Facts& f) {
              f.volumes[0].live_files = f.volumes[0].files = 2;
              f.volumes[0].live_bytes = 4096;
              f.space = SpaceLook{60 * mib, 60 * mib, 30 * mib, 12, 40, 30 * mib, 40};
          }),
     "scan card.img --shelf card.shelf --reach content", "looks freshly formatted"},
    {"an empty volume that was always empty",
     with(scanned_card(),
          [](Facts& f) {
              f.volumes[0].live_files = f.volumes[0].files = 0;
              f.volumes[0].live_bytes = 0;
              f.live.files = 0;
          }),
     "", "Nothing more can be found", "formatted"},
    {"a copy of which little is there",
     with(scanned_card(),
          [](Facts& f) {
              f.volumes[0].live_files = f.volumes[0].files = 0;
              f.volumes[0].live_bytes = 0;
              f.space = SpaceLook{mib, mib, mib, 9, 40};
              f.not_copied = 63 * mib;
              f.checkable = 8;
          }),
     "capture SOURCE card.img --shelf card.shelf", "not copied into this image yet", "formatted"},
    {"nothing is checked while contents are missing",
     with(card_with_lost(3),
          [](Facts& f) {
              f.not_copied = 63 * mib;
              f.checkable = 3;
          }),
     "capture SOURCE card.img --shelf card.shelf", "not lost", "undershelf check"},
    {"proof of discards",
     with(card_with_lost(0, 0, 28),
          [](Facts& f) {
              f.discards = {{1, 27, 28}};
          }),
     "", "TRIM"},

    {"a shelf that knows nothing of unclaimed space",
     with(card_with_lost(5),
          [](Facts& f) {
              f.space.reset();
              f.last_reach = "volumes";
          }),
     "scan card.img --shelf card.shelf --reach volumes", "is not known yet", "Nothing more"},
    {"a scan of a drive that fails",
     with(card_with_lost(5),
          [](Facts& f) {
              f.failing = f.is_drive = true;
              f.unreadable = 4096;
              f.space.reset();
              f.checkable = 5;
          }),
     "capture card.img IMAGE --metadata-first", "unreadable places", "undershelf check"},

    // Checks, choice, export.
    {"lost files that can be checked", with(card_with_lost(5), [](Facts& f) { f.checkable = 4; }),
     "check card.shelf", "4 lost files can be read"},
    {"an interrupted check",
     with(card_with_lost(5),
          [](Facts& f) {
              f.checkable = 4;
              f.check_interrupted = true;
          }),
     "check card.shelf", "was interrupted"},
    {"what a check left unfinished",
     with(card_with_lost(5),
          [](Facts& f) {
              f.checkable = 1;
              f.checked = true;
          }),
     "export card.shelf --to DIR --lost --grade likely+", "likely to open", "undershelf check"},
    {"after a check: look",
     with(card_with_lost(5, 3),
          [](Facts& f) {
              f.asked = Asked::check;
              f.checked = true;
          }),
     "list card.shelf --lost --grade doubtful --sort -chance", "undershelf peek card.shelf 17"},
    {"after a check without doubtful ones",
     with(card_with_lost(5),
          [](Facts& f) {
              f.asked = Asked::check;
              f.checked = true;
          }),
     "tree card.shelf --lost", "undershelf mark card.shelf --id NUMBERS", "undershelf peek"},
    {"the summary never says look", card_with_lost(5, 3), "export card.shelf --to DIR --lost --grade likely+",
     "", "undershelf list"},
    {"marks", with(card_with_lost(5, 3), [](Facts& f) { f.marks = 4; }),
     "export card.shelf --to DIR --marked", "4 entries are marked"},
    {"none but doubtful ones", card_with_lost(0, 3), "export card.shelf --to DIR --lost --grade doubtful+",
     "none better"},
    {"an interrupted export", with(card_with_lost(5), [](Facts& f) { f.export_interrupted = true; }),
     "export card.shelf --to DIR --lost --grade likely+", "did not come to its end"},
    {"after an export",
     with(card_with_lost(5, 3),
          [](Facts& f) {
              f.asked = Asked::export_files;
              f.exported = true;
              f.exported_to = "rescued";
              f.bags = {"rescued"};
              f.left_out[static_cast<std::size_t>(Grade::doubtful)] = 3;
          }),
     "verify rescued", "Left: 3 doubtful"},
    {"the summary after an export",
     with(card_with_lost(5, 3),
          [](Facts& f) {
              f.exported = true;
              f.exported_to = "rescued";
          }),
     "", "exported to rescued", "undershelf verify"},
    {"more than before an export",
     with(card_with_lost(5, 3),
          [](Facts& f) {
              f.exported_to = "rescued";
              f.exported_lost[static_cast<std::size_t>(Grade::likely)] = 3;
          }),
     "export card.shelf --to rescued --lost --grade likely+ --not-exported",
     "2 lost files are likely to open and not exported yet"},
    {"all that is likely was exported before",
     with(card_with_lost(5, 3),
          [](Facts& f) {
              f.exported_to = "rescued";
              f.exported_lost[static_cast<std::size_t>(Grade::likely)] = 5;
          }),
     "", "Nothing more", "undershelf export"},
    {"all is back",
     with(card_with_lost(5),
          [](Facts& f) {
              f.exported = true;
              f.exported_to = "rescued";
          }),
     "", "The job is done", "Nothing more"},

    // It ends.
    {"all zeros", bare_source({0, 0, 0, 0, 0}), "", "Nothing more can be found here, because every byte"},
    {"random bytes", bare_source({20 * mib, 20 * mib, 20 * mib, 0, 0}), "",
     "it may be encrypted, or written over"},
    {"every pass done",
     with(card_with_lost(0, 0, 9),
          [](Facts& f) {
              f.contents = Pass::done;
              f.space.reset();
          }),
     "", "every sector was looked at"},
    {"a search for pictures alone",
     with(card_with_lost(5),
          [](Facts& f) {
              f.contents = Pass::done;
              f.space.reset();
              f.not_looked_for = {"flac", "mp3"};
          }),
     "scan card.img --shelf card.shelf --reach content", "left out 2 formats"},
    {"places that cannot be read", with(card_with_lost(0, 0, 9), [](Facts& f) { f.unreadable = 8192; }), "",
     "workshop for damaged drives"},
    {"no deleted file", scanned_card(), "", "it was another drive"},
};

}  // namespace

TEST(Planner, AdvisesWhatASituationCallsFor) {
    EXPECT_GE(std::size(situations), 30u);
    for (const auto& s : situations) {
        SCOPED_TRACE(s.name);
        const auto plan = undershelf::plan(s.facts);
        const auto first = plan.steps.empty() ? std::string() : command_line(plan.steps.front().argv);
        EXPECT_EQ(first, *s.first ? std::string("undershelf ") + s.first : "");
        const auto said = fmt::format("{}", fmt::join(plan.next, "\n"));
        EXPECT_FALSE(plan.next.empty());
        EXPECT_THAT(said, AllOf(HasSubstr(s.said), Not(HasSubstr(s.not_said))));
    }
}

TEST(Planner, EverySentenceOfAStepEndsWithItsCommand) {
    for (const auto& s : situations) {
        for (const auto& step : plan(s.facts).steps) {
            const auto command = command_line(step.argv);
            const auto next = plan(s.facts).next;
            EXPECT_TRUE(
                std::any_of(next.begin(), next.end(),
                            [&](const std::string& sentence) { return sentence.ends_with(": " + command); }))
                << s.name << ": " << command;
            EXPECT_FALSE(step.brings.empty()) << command;
        }
    }
}

}  // namespace undershelf
