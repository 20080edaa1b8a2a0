#include "answers/sources.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <nlohmann/json.hpp>

#include "answers/drive_json.hpp"
#include "answers/planner.hpp"
#include "answers/volume_json.hpp"
#include "base/amounts.hpp"

namespace undershelf {

namespace {

using Json = nlohmann::ordered_json;
using Words = std::vector<std::string>;

bool seems_to_fail(const ListedSource& s) {
    const auto& smart = s.smart ? s.smart->health : std::optional<SmartHealth>();
    const auto any = [](const std::optional<std::uint64_t>& n) { return n.value_or(0) > 0; };
    return (s.drive && any(s.drive->health.errors)) ||
           (smart &&
            (smart->passed == false || any(smart->waiting_sectors) || any(smart->unreadable_sectors) ||
             any(smart->moved_sectors) || any(smart->media_errors)));
}

/// A command that needs the rights of root.
Words with_rights(Words words, bool as_root) {
    if (!as_root) words.emplace(words.begin(), "sudo");
    return words;
}

Plan plan_for_drive(const ListedSource& s, bool as_root) {
    const auto& d = *s.drive;
    Plan out;
    if (d.of_system) {
        out.say(
            "The running system is on it, and writes to it all the time. Switch the computer off, and look "
            "at "
            "this drive from another system.");
        return out;
    }
    for (const auto& m : d.health.mounts) {
        if (m.writable)
            out.add({with_rights({"umount", m.point}, as_root),
                     "Unmount it: until then the system may write over what is lost",
                     {},
                     "a drive that rests"});
    }
    if (!d.read_only)
        out.add({with_rights({"blockdev", "--setro", d.path}, as_root),
                 "Keep the system from writing to it, and from mounting it for writing, while it is examined",
                 {},
                 "a drive that nothing writes to until it is attached again"});
    const bool may_read = d.readable == Readable::yes;
    if (seems_to_fail(s))
        out.add(
            {with_rights({"undershelf", "capture", d.path, "IMAGE", "--metadata-first"}, as_root || may_read),
             "It seems to fail. Copy it before anything else, and work on the copy",
             {},
             "an image to work on"});
    else
        out.add({with_rights({"undershelf", "inspect", d.path}, as_root || may_read),
                 "See what is on it",
                 {},
                 "volumes, their health, and what to do next"});
    return out;
}

Json smart_json(const ListedSource& s) {
    if (!s.smart || !s.smart->health) return nullptr;
    const auto& h = *s.smart->health;
    return {{"passed", or_null(h.passed)},
            {"moved_sectors", or_null(h.moved_sectors)},
            {"waiting_sectors", or_null(h.waiting_sectors)},
            {"unreadable_sectors", or_null(h.unreadable_sectors)},
            {"media_errors", or_null(h.media_errors)},
            {"worn_percent", or_null(h.worn_percent)},
            {"celsius", or_null(h.celsius)},
            {"hours", or_null(h.hours)}};
}

Json drive_json(const AttachedDrive& d) {
    Json out{{"path", d.path}, {"kind", d.bus == "loop" ? "loop" : "drive"}};
    out.update(json_of(d.health));
    out.update(Json{{"bus", or_null(d.bus)},
                    {"size", d.size},
                    {"sector_size", d.sector_size},
                    {"removable", d.removable},
                    {"read_only", d.read_only},
                    {"readable", d.readable == Readable::yes},
                    {"of_system", d.of_system},
                    {"backing_file", or_null(d.backing_file)},
                    {"file_system", or_null(d.file_system)},
                    {"label", or_null(d.label)}});
    out["partitions"] = Json::array();
    for (const auto& p : d.partitions)
        out["partitions"].push_back({{"path", p.path},
                                     {"offset", p.offset},
                                     {"size", p.size},
                                     {"file_system", or_null(p.file_system)},
                                     {"label", or_null(p.label)},
                                     {"name", or_null(p.partition_name)},
                                     {"swap", p.swap},
                                     {"mounts", json_of(p.mounts)}});
    return out;
}

Json image_json(const Inspection& seen) {
    Json out{{"path", seen.path}, {"kind", "image"}, {"size", seen.size}, {"sector_size", seen.sector_size}};
    out["volumes"] = Json::array();
    for (const auto& v : seen.volumes) out["volumes"].push_back(json_of(v.found.volume));
    return out;
}

}  // namespace

const std::string& path_of(const ListedSource& s) {
    return s.drive ? s.drive->path : s.image->path;
}

std::string description_of(const ListedSource& s) {
    if (!s.drive) return "image file";
    const auto& d = *s.drive;
    Words parts;
    const auto add = [&](const std::string& text) {
        if (!text.empty()) parts.push_back(text);
    };
    add(d.health.model);
    if (!d.health.serial.empty()) parts.push_back("serial " + d.health.serial);
    add(d.bus);
    if (d.health.rotating && d.bus != "loop")
        parts.emplace_back(*d.health.rotating ? "rotating" : "solid-state");
    if (d.removable) parts.emplace_back("removable");
    if (d.read_only) parts.emplace_back("read-only");
    if (!d.backing_file.empty()) parts.push_back("of " + d.backing_file);
    return fmt::format("{}", fmt::join(parts, ", "));
}

std::vector<std::string> notes_on(const ListedSource& s) {
    if (!s.drive) return {};
    auto health = s.drive->health;
    // What to do about mounts is among the steps.
    if (s.drive->of_system) health.mounts.clear();
    for (auto& m : health.mounts) m.writable = false;
    auto out = in_words(health);
    if (s.smart && s.smart->health) {
        const auto more = in_words(*s.smart->health);
        out.insert(out.end(), more.begin(), more.end());
    }
    if (s.smart && !s.smart->trouble.empty())
        out.push_back(fmt::format("It does not tell how it is: {}.", s.smart->trouble));
    if (s.drive->swap) out.emplace_back("The system swaps to it.");
    if (s.drive->readable == Readable::no)
        out.push_back(fmt::format(
            "You may not read {}. With sudo before the command you may; nothing is written to it.",
            s.drive->path));
    if (s.drive->readable == Readable::no_device_file)
        out.push_back(fmt::format("There is no device file {} to read it through.", s.drive->path));
    return out;
}

Plan plan_for(const ListedSource& s, bool as_root) {
    return s.drive ? plan_for_drive(s, as_root) : plan(facts_of(*s.image));
}

Json sources_json(const std::vector<ListedSource>& sources, bool as_root) {
    Json out{{"sources", Json::array()}};
    for (const auto& s : sources) {
        auto row = s.drive ? drive_json(*s.drive) : image_json(*s.image);
        if (s.drive) row["health"] = smart_json(s);
        row["notes"] = notes_on(s);
        append_plan(row, plan_for(s, as_root));
        out["sources"].push_back(std::move(row));
    }
    return out;
}

}  // namespace undershelf
