#include "answers/planner.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>

#include "answers/planner_parts.hpp"
#include "base/amounts.hpp"
#include "base/text.hpp"
#include "content/formats.hpp"
#include "volume/words.hpp"

namespace undershelf {

namespace {

using namespace std::string_view_literals;
using Words = std::vector<std::string>;

Step step(Words words, std::string_view why, std::string_view brings, std::optional<double> seconds = {}) {
    words.emplace(words.begin(), "undershelf");
    return {std::move(words), std::string(why), seconds, std::string(brings)};
}

Step scan_step(const Facts& f, const std::string& reach, std::string_view why, std::string_view brings,
               std::optional<double> seconds = {}) {
    return {scan_words(f, reach), std::string(why), seconds, std::string(brings)};
}

std::string capitalised(std::string text) {
    if (!text.empty()) text[0] = static_cast<char>(std::toupper(static_cast<unsigned char>(text[0])));
    return text;
}

/// One walk over the facts.
class Planner {
  public:
    explicit Planner(const Facts& facts) : f_(facts) {}

    Plan run() {
        warn(f_, out_);
        if (!f_.scanned()) {
            look_at_source();
            return std::move(out_);
        }
        if (!f_.unfinished_reach.empty()) finish_scan();
        if (f_.asked == Asked::export_files && f_.exported) after_export();
        if (f_.not_copied) go_on_copying();
        if (f_.failing) copy_first();
        if (f_.not_copied == 0 && !f_.failing && f_.unfinished_reach.empty()) {
            look();
            search();
            check();
        }
        choose();
        export_files();
        if (out_.steps.empty()) say_it_is_over(f_, out_);
        return std::move(out_);
    }

  private:
    /// Is nearly all of the source something that nobody reads without its key?
    bool is_all_encrypted() const {
        std::uint64_t bytes = 0;
        for (const auto& s : f_.unread_systems) bytes += s.is_encrypted() ? s.range.length : 0;
        return bytes > f_.size / 10 * 9;
    }

    /// Only heads and maps were looked at so far: where a volume may well have been.
    Words room_without_a_volume() const {
        constexpr std::uint64_t room = 16 << 20;
        Words out;
        if (!f_.bare_partitions.empty())
            out.push_back(
                counted(f_.bare_partitions.size(), "partition has no volume", "partitions have no volume"));
        if (f_.unassigned >= std::max(room, f_.size / 50))
            out.push_back(fmt::format("{} belong to no volume", human_size(f_.unassigned)));
        return out;
    }

    /// Before anything is scanned: secure, then scan.
    void look_at_source() {
        if (is_all_encrypted() && !f_.failing && !f_.is_drive) {
            out_.say(
                "Nothing can be found here without the key. Open the volume with it, take an image of what "
                "is "
                "inside, and work on that.");
            return;
        }
        if (f_.not_copied)
            out_.add(step(
                {"capture", "SOURCE", f_.source},
                "The copy is not complete. Go on with it, with the drive in place of SOURCE; what is there "
                "can be scanned meanwhile",
                "the rest of the source"));
        if (f_.failing)
            copy_first();
        else if (f_.is_drive)
            out_.add(step({"capture", f_.source, "IMAGE"},
                          "This is a drive. Work on an image of it, so that nothing can go wrong twice",
                          "an image to work on"));
        const bool known =
            std::any_of(f_.volumes.begin(), f_.volumes.end(), [](const auto& v) { return v.readable; });
        std::string why(known
                            ? "Read the metadata, which takes seconds"sv
                            : "No volume that can be read was found. A scan says by samples whether anything "
                              "else can be found"sv);
        if (const auto doubts = room_without_a_volume(); known && !doubts.empty())
            why += fmt::format("; {}, and the scan says whether a search can help", listed(doubts));
        out_.add(scan_step(f_, {}, why, "a shelf with all names that are left"));
    }

    void copy_first() {
        out_.add(step(
            {"capture", f_.source, "IMAGE", "--metadata-first"},
            "The source has unreadable places. Copy it before anything else, and work on the copy: every "
            "further reading may cost more of it",
            "an image to work on"));
    }

    void finish_scan() {
        out_.add(scan_step(f_, f_.unfinished_reach,
                           "The scan is not finished. The same command goes on from where it came to",
                           "the rest of the scan"));
    }

    void go_on_copying() {
        out_.say(fmt::format("{} of the source are not copied into this image yet, and not lost; {} there.",
                             human_size(f_.not_copied),
                             f_.waiting ? counted(f_.waiting, "lost file is", "lost files are")
                                        : std::string("no lost file is known to be")));
        out_.add(step(
            {"capture", "SOURCE", f_.source, "--shelf", f_.shelf},
            "Go on with the copy, with the drive in place of SOURCE, and scan again. A selection copies the "
            "files first that are wanted",
            "the rest of the source"));
    }

    /// A shelf of an earlier version, or one whose scan was ended in its last moment.
    void look() {
        if (f_.space || f_.contents == Facts::Pass::done) return;
        out_.add(
            scan_step(f_, f_.last_reach,
                      "What the space that no entry claims holds is not known yet. The same scan looks at it",
                      "which pass can bring more"));
    }

    /// The contents pass has the sweep in it: where both would help it alone is said.
    void search() {
        const auto contents = reasons_for_contents(f_);
        if (!contents.empty()) {
            out_.add(scan_step(f_, "content",
                               fmt::format("{}. A search for contents may bring more; it includes the sweep "
                                           "for former volumes and the check of lost files.",
                                           capitalised(listed(contents))),
                               "files without names, former volumes, checked files", f_.content_seconds));
            searching_ = true;
            return;
        }
        if (!f_.not_looked_for.empty() && f_.not_looked_for.size() < formats().size()) {
            out_.add(scan_step(
                f_, "content",
                fmt::format("The search for contents left out {}. Without --kind, --ext and --content it "
                            "looks for all.",
                            counted(f_.not_looked_for.size(), "format", "formats")),
                "files without names of the other formats", f_.content_seconds));
            searching_ = true;
            return;
        }
        const auto sweep = reasons_for_sweep(f_);
        if (sweep.empty()) return;
        out_.add(scan_step(f_, "traces",
                           fmt::format("{}. A sweep over every sector may bring former volumes and folders.",
                                       capitalised(listed(sweep))),
                           "former volumes, and folders that nothing names", f_.sweep_seconds));
        searching_ = true;
    }

    void check() {
        if (searching_) return;
        if (f_.checkable && !f_.checked) {
            const auto* how = f_.check_interrupted ? "The check was interrupted, and goes on: " : "";
            out_.add(step({"check", f_.shelf},
                          fmt::format("{}{} be read to {} end, which shows whether {}", how,
                                      counted(f_.checkable, "lost file can", "lost files can"),
                                      f_.checkable == 1 ? "its" : "their",
                                      f_.checkable == 1 ? "it opens" : "they open"),
                          "which files are verified, and which do not hold"));
        }
        if (f_.broken_live)
            out_.say(
                fmt::format("{} hold to {} end (--origin live --broken selects them). Ask whether there is "
                            "another copy.",
                            counted(f_.broken_live, "live file does not", "live files do not"),
                            f_.broken_live == 1 ? "its" : "their"));
    }

    /// Look, peek, mark: by people, before they export.
    void choose() {
        if (f_.asked == Asked::export_files) return;
        if (f_.first_letters)
            out_.say(fmt::format(
                "{} lost the first letter of {}, shown as _; --name takes any letter for it. Ask the "
                "customer how the names begin.",
                counted(f_.first_letters, "lost file has", "lost files have"),
                f_.first_letters == 1 ? "its name" : "their names"));
        if (f_.copies)
            out_.say(
                fmt::format("{} still there as a live file, byte for byte; --hide-copies leaves them out.",
                            counted(f_.copies, "lost file is", "lost files are")));
        const bool ready = !searching_ && f_.unfinished_reach.empty() && (f_.checked || !f_.checkable);
        if (!ready || f_.exported || (f_.asked != Asked::check && f_.asked != Asked::scan)) return;
        if (f_.lost.files == 0) return;
        if (!f_.lost_of(Grade::doubtful))
            out_.add(step({"tree", f_.shelf, "--lost"}, "Look through what was found",
                          "what the customer remembers"));
        if (f_.lost_of(Grade::doubtful))
            out_.add(step({"list", f_.shelf, "--lost", "--grade", "doubtful", "--sort", "-chance"},
                          fmt::format("Look through the {}",
                                      counted(f_.lost_of(Grade::doubtful), "doubtful one", "doubtful ones")),
                          "what to look at more closely"));
        if (f_.a_doubtful_one)
            out_.add(step({"peek", f_.shelf, std::to_string(*f_.a_doubtful_one)},
                          "See what is inside the first of them", "what a person would see of it"));
        if (!f_.marks)
            out_.add(step({"mark", f_.shelf, "--id", "NUMBERS"}, "Mark what the customer wants",
                          "a choice to export"));
    }

    void export_files() {
        if (f_.exported) return;
        // A later round goes into the same bag.
        const bool another = f_.any_exported() && !f_.exported_to.empty() && !f_.marks;
        Words words{"export", f_.shelf, "--to", another ? f_.exported_to : "DIR"};
        std::string what;
        const bool headless = std::any_of(f_.volumes.begin(), f_.volumes.end(), [](const auto& v) {
            return !v.former && v.readable && !v.own_head;
        });
        const auto choose_lost = [&](const char* grade) {
            if (!headless) words.emplace_back("--lost");
            words.insert(words.end(), {"--grade", grade});
        };
        if (f_.marks) {
            words.emplace_back("--marked");
            what = counted(f_.marks, "entry is marked", "entries are marked");
        } else if (headless && f_.live.files) {
            choose_lost("likely+");
            what = fmt::format("{} on volumes whose heads are gone, and {} likely to open",
                               counted(f_.live.files, "live file is", "live files are"),
                               counted(f_.good(), "lost file is", "lost files are"));
        } else if (f_.good_left()) {
            choose_lost("likely+");
            what = counted(f_.good_left(), "lost file is likely to open", "lost files are likely to open");
        } else if (f_.any_exported()) {
            // What is worse is for somebody to ask for.
            return;
        } else if (f_.lost_of(Grade::doubtful)) {
            choose_lost("doubtful+");
            what = counted(f_.lost_of(Grade::doubtful), "lost file is doubtful, none better",
                           "lost files are doubtful, none better");
        } else if (f_.lost_of(Grade::partial)) {
            choose_lost("partial+");
            what = counted(f_.lost_of(Grade::partial), "lost file is there in part, none better",
                           "lost files are there in part, none better");
        } else {
            return;
        }
        if (f_.export_interrupted)
            out_.say(
                fmt::format("The export to {} did not come to its end. The same command goes on with it.",
                            f_.exported_to));
        if (another) words.emplace_back("--not-exported");
        out_.add(step(
            std::move(words),
            capitalised(what) + (another ? " and not exported yet" : ". DIR is a folder on another drive"),
            "the files, with a checksum each"));
    }

    void after_export() {
        for (const auto& bag : f_.bags)
            out_.add(step({"verify", bag}, "Check what was written against its checksums",
                          "proof that the export is as it was written"));
        Words left;
        for (const auto g : {Grade::verified, Grade::likely, Grade::doubtful, Grade::partial}) {
            if (const auto n = std::min(f_.left_out[static_cast<std::size_t>(g)], f_.left_of(g)))
                left.push_back(fmt::format("{} {}", grouped(n), word(g)));
        }
        if (!left.empty())
            out_.say(
                fmt::format("Left: {}. Another round adds them to the same bag: undershelf export {} --to {} "
                            "--lost --grade GRADE",
                            listed(left), command_line({f_.shelf}), command_line({f_.exported_to})));
    }

    const Facts& f_;
    Plan out_;
    bool searching_ = false;  ///< a longer pass comes first; it does what a check does
};

}  // namespace

Plan plan(const Facts& facts) {
    return Planner(facts).run();
}

Plan plan_after_verify(const std::string& folder, const Verification& found) {
    Plan out;
    if (found.unfinished_command) {
        auto words = *found.unfinished_command;
        if (words.empty()) words = {"export", "SHELF", "--to", folder};
        out.add(step(std::move(words), "Go on with the round that was interrupted", "the rest of its files"));
        if (found.differences.empty()) return out;
    }
    if (found.differences.empty()) {
        out.say(fmt::format("{} is as it was written. It can be handed over.", folder));
        return out;
    }
    out.add(step({"export", "SHELF", "--to", "DIR", "--id", "NUMBERS"},
                 "Export what is wrong once more, into a new folder", "what is wrong, as it should be"));
    return out;
}

}  // namespace undershelf
