#include "report/history.hpp"

#include <fmt/format.h>

#include <cctype>

#include "base/amounts.hpp"
#include "base/text.hpp"

namespace undershelf {

namespace {

void earliest(MaybeTime& kept, const MaybeTime& time) {
    if (time && (!kept || time->ticks < kept->ticks)) kept = time;
}
void latest(MaybeTime& kept, const MaybeTime& time) {
    if (time && (!kept || time->ticks > kept->ticks)) kept = time;
}

std::string named(const Volume& v) {
    return v.label.empty() ? fmt::format("The {} volume", v.file_system)
                           : fmt::format("The volume \"{}\" ({})", v.label, v.file_system);
}

bool overlap(const Volume& a, const Volume& b) {
    return a.offset < b.offset + b.size && b.offset < a.offset + a.size;
}

}  // namespace

void History::look_at(const ShelfEntry& e) {
    auto& volume = all_[e.volume.value_or(0)];
    for (const auto& time : {e.created, e.modified}) latest(volume.newest, time);
    if (e.is_dir) return;
    if (e.origin == Origin::live) {
        ++volume.live;
        earliest(volume.oldest, e.created);
    } else if (e.origin == Origin::deleted) {
        ++volume.deleted;
        earliest(volume.first_deleted, e.deleted);
        latest(volume.last_deleted, e.deleted);
    }
}

/// Between the newest date of what was there before and the first file of what is there now.
std::string History::when_formatted(const Volume& former, const Volume& present) const {
    const auto before = all_.find(former.number), now = all_.find(present.number);
    const auto from = before == all_.end() ? MaybeTime() : before->second.newest;
    const auto to = now == all_.end() ? MaybeTime() : now->second.oldest;
    if (from && to && from->ticks <= to->ticks)
        return fmt::format("between {} and {}", short_date(*from), short_date(*to));
    if (from && to) return "at an unknown time: the dates of the files contradict each other";
    if (from) return "after " + short_date(*from);
    return "at an unknown time";
}

std::vector<std::string> History::sentences(const Facts& facts) const {
    std::vector<std::string> out;
    for (const auto& v : volumes_) {
        if (v.state != VolumeState::former) continue;
        const Volume* present = nullptr;
        for (const auto& other : volumes_) {
            if (other.state != VolumeState::former && overlap(v, other)) present = &other;
        }
        if (present)
            out.push_back(fmt::format(
                "{} was formatted as {} {}. What was on it before is called \"before the format\" here.",
                named(v), present->file_system, when_formatted(v, *present)));
        else
            out.push_back(fmt::format("{} of {} has lost its beginning. It is read from what is left of it.",
                                      named(v), human_size(v.size)));
    }
    for (const auto& v : volumes_) {
        const auto it = all_.find(v.number);
        if (v.state == VolumeState::former || it == all_.end() || it->second.deleted == 0) continue;
        const auto& of = it->second;
        auto name = named(v);
        name[0] = static_cast<char>(std::tolower(static_cast<unsigned char>(name[0])));
        auto sentence =
            fmt::format("{} deleted from {}", counted(of.deleted, "file was", "files were"), name);
        if (of.first_deleted)
            sentence += of.first_deleted->ticks == of.last_deleted->ticks
                            ? fmt::format(", on {}", short_date(*of.first_deleted))
                            : fmt::format(", between {} and {}", short_date(*of.first_deleted),
                                          short_date(*of.last_deleted));
        out.push_back(sentence + ".");
    }
    for (const auto& d : facts.discards)
        out.push_back(
            fmt::format("The drive itself has erased most of what was deleted: {} of {} deleted files that "
                        "were looked at are empty.",
                        grouped(d.zeros), grouped(d.files)));
    if (facts.unreadable)
        out.push_back(fmt::format("{} of it cannot be read any more.", human_size(facts.unreadable)));
    if (facts.not_copied)
        out.push_back(fmt::format("{} of it is not copied yet; what is there is not known.",
                                  human_size(facts.not_copied)));
    if (facts.broken_live)
        out.push_back(fmt::format("{} of the files that are there do not open as they should.",
                                  grouped(facts.broken_live)));
    if (out.empty()) out.emplace_back("Nothing was deleted or formatted, as far as can be told.");
    return out;
}

}  // namespace undershelf
