// What is said before the first step, and when no step is left.

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>

#include "answers/planner_parts.hpp"
#include "base/amounts.hpp"
#include "base/text.hpp"

namespace undershelf {

namespace {

using Words = std::vector<std::string>;

class Warnings {
  public:
    Warnings(const Facts& facts, Plan& out) : f_(facts), out_(out) {}

    void warn() {
        if (!f_.mounted_at.empty()) {
            Words words{"umount"};
            words.insert(words.end(), f_.mounted_at.begin(), f_.mounted_at.end());
            out_.say(fmt::format("Unmount it, or the system may write over what is lost: {}",
                                 command_line(words)));
        }
        for (const auto& d : f_.discards)
            out_.say(fmt::format(
                "Volume {} was on a drive that discards what is deleted (TRIM): {} of {} lost "
                "contents that nobody wrote over read as zeros. Names come back; these contents do "
                "not. Stop using the drive at once, for what is left.",
                d.volume, grouped(d.zeros), grouped(d.files)));
        if (f_.discards.empty() && f_.takes_discards)
            out_.say(
                "This drive takes discards (TRIM): what is deleted on it may read as zeros soon. Stop using "
                "it.");
        warn_of_missing_bytes();
        if (!f_.has_swept() && f_.scanned() && f_.not_copied == 0) warn_of_format();
        for (const auto& s : f_.unread_systems) {
            if (s.is_encrypted())
                out_.say(fmt::format("At byte {} is an {}. Without its key nothing in it can be read.",
                                     grouped(s.range.offset), s.what));
        }
        if (f_.scanned() && !f_.has_swept()) warn_of_bare_partitions();
    }

  private:
    void warn_of_missing_bytes() {
        if (f_.scanned() && f_.unreadable)
            out_.say(fmt::format(
                "{} of the source cannot be read; files there are missing bytes (--unread selects them).{}",
                human_size(f_.unreadable), f_.is_drive ? " Work on a copy." : ""));
    }

    void warn_of_bare_partitions() {
        for (const auto& p : f_.bare_partitions)
            out_.say(fmt::format("The partition at byte {} ({}, {}) has no volume that is known.",
                                 grouped(p.range.offset), p.what, human_size(p.range.length)));
    }

    /// Hardly anything is on it, and something else was there before.
    void warn_of_format() {
        constexpr std::uint64_t few = 50;
        if (!f_.space || f_.space->data == 0) return;
        Words fresh;
        for (const auto& v : f_.volumes) {
            const bool empty = v.live_files < few && v.live_bytes < v.size / few;
            const bool older_traces = f_.space->traces_in_volumes >= enough_traces;
            const bool empty_over_data = v.files == 0 && f_.space->data_in_volumes > f_.space->looked / 10;
            if (!v.former && v.readable && empty && (older_traces || empty_over_data))
                fresh.push_back(std::to_string(v.number));
        }
        if (!fresh.empty())
            out_.say(fmt::format(
                "Volume {} looks freshly formatted: hardly anything is on it, while the space that no "
                "entry claims holds data{}.",
                fmt::join(fresh, ", "),
                f_.space->traces_in_volumes >= enough_traces ? " and pieces of older folders" : ""));
    }

    const Facts& f_;
    Plan& out_;
};

class Ending {
  public:
    Ending(const Facts& facts, Plan& out) : f_(facts), out_(out) {}

    void end() {
        if (f_.exported) out_.say(fmt::format("What was chosen is exported to {}.", f_.exported_to));
        const auto missing =
            f_.lost_of(Grade::gone) + f_.lost_of(Grade::partial) + f_.lost_of(Grade::doubtful);
        if (f_.lost.files && !missing) {
            if (!f_.exported) return;
            out_.say("Nothing that was found is missing anything. The job is done.");
            return;
        }
        out_.say(fmt::format("Nothing more can be found here, because {}.", listed(why_no_more())));
        Words others;
        if (f_.unreadable) others.emplace_back("what cannot be read, a workshop for damaged drives may read");
        if (std::any_of(f_.unread_systems.begin(), f_.unread_systems.end(),
                        [](const auto& s) { return s.is_encrypted(); }))
            others.emplace_back("an encrypted volume opens with its key alone; ask the customer for it");
        if (!f_.discards.empty())
            others.emplace_back("discarded contents, where the drive itself still keeps them");
        if (!others.empty()) out_.say(fmt::format("What is left for a specialist: {}.", listed(others)));
    }

  private:
    Words why_no_more() const {
        Words out;
        if (!f_.discards.empty())
            out.emplace_back("most lost contents read as zeros: the drive has discarded them");
        if (f_.space && f_.space->data == 0)
            out.emplace_back(f_.space->bytes ? "all space that no entry claims reads as zeros or as one value"
                                             : "every byte belongs to an entry, or reads as zeros");
        else if (f_.contents == Facts::Pass::done)
            out.emplace_back("every sector was looked at");
        else if (f_.space)
            out.emplace_back("what no entry claims holds nothing that begins like a file or a folder");
        if (f_.lost_of(Grade::gone))
            out.push_back(fmt::format("the clusters of {} are used by other files or read as zeros",
                                      counted(f_.lost_of(Grade::gone), "lost file", "lost files")));
        if (f_.volumes.empty() && f_.space && f_.space->data)
            out.emplace_back(
                "what is there has no structure that is known; it may be encrypted, or written over");
        if (f_.lost.files == 0 && f_.live.files)
            out.emplace_back(
                "no trace of a deleted file is left. If the customer is sure, it was another drive");
        if (out.empty()) out.emplace_back("every pass that can help is done");
        return out;
    }

    const Facts& f_;
    Plan& out_;
};

}  // namespace

std::string listed(const Words& parts) {
    if (parts.size() < 2) return parts.empty() ? std::string() : parts.front();
    return fmt::format("{}, and {}", fmt::join(parts.begin(), parts.end() - 1, ", "), parts.back());
}

void warn(const Facts& facts, Plan& out) {
    Warnings(facts, out).warn();
}

void say_it_is_over(const Facts& facts, Plan& out) {
    Ending(facts, out).end();
}

}  // namespace undershelf
