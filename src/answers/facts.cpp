#include "answers/facts.hpp"

#include <algorithm>
#include <filesystem>

#include "base/text.hpp"
#include "content/formats.hpp"
#include "scan/settings.hpp"
#include "shelf/selection_text.hpp"
#include "volume/words.hpp"

namespace undershelf {

namespace {

Facts::Pass pass_of(const std::vector<ScanRecord>& scans, Reach reach) {
    auto out = Facts::Pass::none;
    for (const auto& s : scans) {
        if (s.reach != word(reach)) continue;
        if (s.state == "done") return Facts::Pass::done;
        out = Facts::Pass::interrupted;
    }
    return out;
}

/// Lost files that a reader could say something of.
std::uint64_t checkable_in(const Shelf& shelf) {
    std::uint64_t out = 0;
    const auto all = formats();
    for (const auto& [extension, count] : shelf.unchecked()) {
        const std::string_view ext = extension;
        if (std::any_of(all.begin(), all.end(),
                        [&](const Format& f) { return f.strength > Strength::none && promises(ext, f); }))
            out += count;
    }
    return out;
}

/// Formats that can be looked for, and were not.
std::vector<std::string> left_out_of(const std::string& looked_for) {
    std::vector<std::string> out;
    for (const auto& f : formats()) {
        if (!lists_word(looked_for, f.word)) out.emplace_back(f.word);
    }
    return out;
}

void add_passes(const Shelf& shelf, const ScanState& state, Facts& out) {
    const auto scans = shelf.scans();
    out.sweep = pass_of(scans, Reach::traces);
    out.contents = pass_of(scans, Reach::content);
    if (scans.empty()) {
        out.unfinished_reach = word(Reach::volumes);
    } else if (scans.back().state != "done") {
        out.unfinished_reach = scans.back().reach;
    } else {
        out.last_reach = scans.back().reach;
    }
    for (const auto& s : scans) {
        if (s.sweep_seconds) out.sweep_seconds = s.sweep_seconds;
    }
    out.content_seconds = state.content_seconds;
    out.space = state.space;
    if (out.contents == Facts::Pass::done) out.not_looked_for = left_out_of(state.contents);
}

void add_work(const Shelf& shelf, Facts& out) {
    const auto scans = shelf.scans().size();
    const auto everything = selection_text(all_lost());
    for (const auto& job : shelf.jobs()) {
        const bool since_scan = job.after_scan == static_cast<std::int64_t>(scans);
        switch (job.work) {
            case Work::check:
                if (job.selection == everything && since_scan) {
                    out.checked |= job.done();
                    out.check_interrupted = !job.done();
                }
                out.exported = false;
                break;
            case Work::mark:
                out.exported = false;
                break;
            case Work::export_files:
                out.exported = job.done() && since_scan;
                out.export_interrupted = !job.done();
                out.exported_to = job.folder;
                break;
        }
    }
}

/// Counted where something was exported at all.
std::array<std::uint64_t, 6> exported_lost_of(const Shelf& shelf) {
    const auto jobs = shelf.jobs();
    if (std::none_of(jobs.begin(), jobs.end(),
                     [](const JobRecord& job) { return job.work == Work::export_files; }))
        return {};
    auto selection = all_lost();
    selection.no_helpers = true;
    selection.exported = true;
    return shelf.sum(selection).by_grade;
}

std::uint64_t count_of(const Shelf& shelf, const auto& choose) {
    Selection s;
    s.no_helpers = true;
    choose(s);
    return shelf.count(s);
}

}  // namespace

Facts facts_of(const Inspection& seen) {
    Facts out;
    out.asked = Asked::inspect;
    out.source = seen.path;
    out.size = seen.size;
    out.is_drive = seen.is_drive;
    out.failing = !seen.unreadable.empty() && seen.gaps.empty();
    out.unreadable = seen.unreadable.bytes();
    out.not_copied = seen.not_copied.value_or(0);
    if (seen.drive) {
        out.takes_discards = seen.drive->takes_discards.value_or(false);
        out.mounted_at = writable_mounts(*seen.drive);
    }
    for (const auto& v : seen.volumes) {
        const auto& volume = v.found.volume;
        out.volumes.push_back({.number = volume.number,
                               .former = false,
                               .readable = volume.readable,
                               .own_head = by_own_head(volume),
                               .size = volume.size});
        if (!volume.readable)
            out.unread_systems.push_back({{volume.offset, volume.size}, volume.file_system});
    }
    for (const auto& p : seen.bare_partitions) out.bare_partitions.push_back({{p.offset, p.size}, p.type});
    out.unassigned = seen.unassigned;
    return out;
}

Facts facts_of(const Shelf& shelf, Asked asked) {
    Facts out;
    out.asked = asked;
    const auto source = shelf.source();
    const auto state = shelf.state();
    out.source = source.path;
    out.settings = settings_options(state.settings);
    out.shelf = shelf.path();
    out.size = source.size;
    std::error_code ec;
    out.is_drive = std::filesystem::is_block_file(source.path, ec);
    out.takes_discards = state.takes_discards;
    out.not_copied = shelf.not_copied().bytes();
    out.unreadable = shelf.unreadable_for_good().bytes();
    out.failing = out.is_drive && out.unreadable > 0;
    out.bare_partitions = state.bare_partitions;
    out.unread_systems = state.unread_systems;
    auto by_volume = rows_of(shelf, Shelf::TallyBy::volume);
    auto live = live_by_volume(shelf);
    for (const auto& v : shelf.volumes())
        out.volumes.push_back({v.number, v.state == VolumeState::former, v.readable, by_own_head(v), v.size,
                               live[v.number].files, live[v.number].bytes, by_volume[v.number].files});
    add_passes(shelf, state, out);
    const auto totals = totals_of(rows_of(shelf, Shelf::TallyBy::origin));
    out.live = totals.live;
    out.lost = totals.lost;
    out.without_contents = out.lost_of(Grade::gone);
    out.missing_folders = shelf.stand_in_folders();
    out.waiting = shelf.lost_not_copied();
    out.checkable = checkable_in(shelf);
    for (const auto& [volume, d] : state.discards) out.discards.push_back({volume, d.zeros, d.files});
    out.broken_live = shelf.broken_live();
    out.copies = shelf.copies();
    out.first_letters = shelf.uncertain_names(NameCertainty::first_letter_unknown);
    if (asked == Asked::check || asked == Asked::scan) out.a_doubtful_one = shelf.best_doubtful();
    out.marks = count_of(shelf, [](Selection& s) { s.marked = true; });
    add_work(shelf, out);
    out.exported_lost = exported_lost_of(shelf);
    return out;
}

Facts facts_after(const Shelf& shelf, const ExportOptions& asked, const ExportResult& result) {
    auto out = facts_of(shelf, Asked::export_files);
    out.exported = !result.interrupted && result.failed == 0;
    out.export_interrupted = !out.exported;
    // As they were typed.
    for (const auto& part : result.parts) out.bags.push_back(part.folder);
    if (!out.bags.empty()) out.exported_to = out.bags.back();
    auto selection = asked.selection;
    selection.lost = selection.no_helpers = true;
    const auto taken = shelf.sum(selection).by_grade;
    for (std::size_t i = 0; i < taken.size(); ++i)
        out.left_out[i] = out.lost.by_grade[i] - std::min(out.lost.by_grade[i], taken[i]);
    return out;
}

}  // namespace undershelf
