#include "answers/advice.hpp"

#include <fmt/format.h>

#include <algorithm>

#include "base/amounts.hpp"
#include "content/formats.hpp"

namespace undershelf {

namespace {
/// Does a volume look as if it had just been formatted? Hardly anything is on it then.
bool looks_formatted(const Volume& v, const Counts& live) {
    constexpr std::uint64_t few = 50;
    return v.state == VolumeState::present && live.files < few && live.bytes < v.size / few;
}

/// What stood on volumes before would have to be swept for; true when there is such a one.
bool add_format_advice(const Shelf& shelf, std::vector<std::string>& out) {
    const auto scans = shelf.scans();
    if (shelf.has_swept() || scans.empty()) return false;
    std::string fresh;
    const auto live = live_by_volume(shelf);
    for (const auto& v : shelf.volumes()) {
        const auto it = live.find(v.number);
        if (!looks_formatted(v, it == live.end() ? Counts() : it->second)) continue;
        fresh += fmt::format("{}{}", fresh.empty() ? "" : ", ", v.number);
    }
    if (fresh.empty()) return false;
    const auto& seconds = scans.back().sweep_seconds;
    out.push_back(fmt::format(
        "Volume {} looks freshly formatted: hardly anything is on it. What was there before has to be swept "
        "for over the whole source{}: undershelf scan {} --shelf {} --reach traces",
        fresh,
        seconds ? fmt::format(", which takes about {} at the rate it has just been read",
                              *seconds < 1 ? "a second" : human_time(*seconds))
                : "",
        shelf.source().path, shelf.path()));
    return true;
}

/// What the volumes themselves say: discarded space, or a fresh format.
void add_volume_advice(const Shelf& shelf, const Totals& totals, std::vector<std::string>& out) {
    bool discards = false;
    const auto state = shelf.state();
    for (const auto& v : shelf.volumes()) {
        const auto said = state.discards.find(v.number);
        if (said == state.discards.end()) continue;
        discards = true;
        out.push_back(fmt::format(
            "Volume {} discards what is deleted: {} of {} deleted contents that nobody wrote over read as "
            "zeros. "
            "Names come back; contents do not. Stop using the drive at once, for what little is left.",
            v.number, said->second.zeros, said->second.files));
    }
    if (add_format_advice(shelf, out) || totals.lost.files > 0 || discards) return;
    if (totals.live.files >= 3)
        out.push_back(
            "No deleted file was found: the volume has no trace of one any more. If the customer is "
            "sure, it was another drive, or the entries were written over.");
}

/// Contents outlive what tells of them.
void add_unnamed_advice(const Shelf& shelf, const Totals& totals, std::vector<std::string>& out) {
    const bool lacks =
        shelf.volumes().empty() || totals.lost.by_grade[static_cast<std::size_t>(Grade::gone)] > 0;
    if (!shelf.has_swept() || shelf.has_scanned(Reach::content) || !lacks) return;
    out.push_back(fmt::format(
        "Contents that nothing names any more can be found by what they hold: undershelf scan {} --shelf {} "
        "--reach content",
        shelf.source().path, shelf.path()));
}

/// What reading contents to their end has shown, or would.
void add_check_advice(const Shelf& shelf, std::vector<std::string>& out) {
    std::uint64_t files = 0;
    for (const auto& [extension, count] : shelf.unchecked()) {
        const std::string_view ext = extension;
        const auto all = formats();
        const bool can = std::any_of(all.begin(), all.end(), [&](const Format& f) {
            return f.strength > Strength::none && promises(ext, f);
        });
        if (can) files += count;
    }
    if (files)
        out.push_back(fmt::format("{} be read to {} end, which shows whether {}: undershelf check {}",
                                  counted(files, "lost file can", "lost files can"),
                                  files == 1 ? "its" : "their", files == 1 ? "it opens" : "they open",
                                  shelf.path()));
    if (const auto broken = shelf.broken_live())
        out.push_back(fmt::format(
            "{} hold to {} end; ask whether there is another copy: undershelf list {} --origin live --broken",
            counted(broken, "live file does not", "live files do not"), broken == 1 ? "its" : "their",
            shelf.path()));
}

}  // namespace

std::vector<std::string> advice(const Shelf& shelf, const Totals& totals) {
    std::vector<std::string> out;
    const auto& grades = totals.lost.by_grade;
    const auto good =
        grades[static_cast<std::size_t>(Grade::likely)] + grades[static_cast<std::size_t>(Grade::verified)];
    const auto scan = shelf.last_scan();
    if (!scan || scan->state != "done")
        out.push_back("The scan is not finished: run the same `undershelf scan` again, and it goes on.");
    if (const auto bad = shelf.unreadable_for_good(); !bad.empty()) {
        out.push_back(fmt::format(
            "{} of the source cannot be read, in {}; files there are missing bytes: undershelf list {} "
            "--unread. "
            "Work on a copy.",
            human_size(bad.bytes()), counted(bad.ranges().size(), "range", "ranges"), shelf.path()));
    }
    if (const auto waits = shelf.not_copied(); !waits.empty()) {
        out.push_back(fmt::format(
            "{} of the source is not copied into this image yet, and not lost. To copy what certain "
            "files need first: undershelf capture SOURCE {} --from {} [selection]; then scan the image "
            "again.",
            human_size(waits.bytes()), shelf.source().path, shelf.path()));
    }
    add_volume_advice(shelf, totals, out);
    add_check_advice(shelf, out);
    add_unnamed_advice(shelf, totals, out);
    if (good)
        out.push_back(fmt::format("{} likely to open: undershelf export {} --to DIR --lost --grade likely+",
                                  counted(good, "lost file is", "lost files are"), shelf.path()));
    if (const auto copies = shelf.copies()) {
        out.push_back(
            fmt::format("{} still there as a live file, byte for byte; leave them out with --hide-copies.",
                        counted(copies, "lost file is", "lost files are")));
    }
    if (grades[static_cast<std::size_t>(Grade::doubtful)]) {
        out.push_back(fmt::format(
            "To look through the doubtful ones: undershelf list {} --lost --grade doubtful --sort -chance",
            shelf.path()));
    }
    if (const auto unknown = shelf.uncertain_names(NameCertainty::first_letter_unknown)) {
        out.push_back(fmt::format(
            "{} lost the first letter of {}, shown as _; --name takes any letter for it. Ask the "
            "customer how the names begin.",
            counted(unknown, "lost file has", "lost files have"), unknown == 1 ? "its name" : "their names"));
    }
    return out;
}

}  // namespace undershelf
