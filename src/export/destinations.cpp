#include "export/destinations.hpp"

#include <fmt/format.h>
#include <sys/stat.h>
#include <sys/statvfs.h>

#include <filesystem>
#include <set>

#include "base/saturating.hpp"
#include "export/bag.hpp"
#include "writing/storage.hpp"

namespace fs = std::filesystem;

namespace undershelf {

namespace {

fs::path absolute_path(const std::string& folder) {
    auto path = fs::absolute(folder).lexically_normal();
    return path.has_filename() ? path : path.parent_path();
}

}  // namespace

BagOwner owner_of(const Shelf& shelf, const ExportOptions& options) {
    return {shelf.identity(), shelf.source(), describe_job(shelf.source(), options),
            options.command.arguments};
}

Destinations::Destinations(const Shelf& shelf, const ExportOptions& options)
    : folders_(options.to), owner_(owner_of(shelf, options)), bags_(options.to.size()) {
    std::set<fs::path> seen;
    for (const auto& folder : folders_) {
        if (!seen.insert(absolute_path(folder)).second)
            throw Error(Trouble::usage, fmt::format("--to gives {} twice.", folder));
    }
    for (std::size_t i = 0; folders_.size() > 1 && i < folders_.size(); ++i) look(i);
}

Destinations::Bag& Destinations::look(std::size_t number) const {
    if (bags_[number]) return *bags_[number];
    auto& out = bags_[number].emplace();
    std::error_code ec;
    if (!fs::is_directory(folders_[number], ec)) return out;
    try {
        const Folder folder(folders_[number]);
        const BagPast past(folder, owner_);
        past.each_finished([&](const std::string&, LineGist&& line) {
            if (!line.path_in_bag || !past.is_there(line)) return;
            auto& held = out.entries[line.id];
            held.revision = std::max(held.revision, line.revision);
        });
        out.unfinished = past.state() == BagState::unfinished;
        for (const auto& [e, synced] : past.unfinished()) {
            const bool there = e.path_in_bag && (folder.status(*e.path_in_bag) ||
                                                 folder.status(undershelf::Bag::part_path(e.id)));
            if (there) out.entries.insert_or_assign(e.id, Held{e.revision, false});
        }
    } catch (const std::system_error&) {
        // Whoever writes there says so.
    }
    return out;
}

const Destinations::Held* Destinations::find(const ShelfEntry& entry, std::size_t but) const {
    for (std::size_t i = 0; i < folders_.size(); ++i) {
        if (i == but) continue;
        const auto& entries = look(i).entries;
        const auto it = entries.find(entry.id);
        if (it != entries.end() && it->second.revision >= entry.revision) return &it->second;
    }
    return nullptr;
}

bool Destinations::unfinished_after(std::size_t folder) const {
    for (auto i = folder + 1; i < folders_.size(); ++i) {
        if (look(i).unfinished) return true;
    }
    return false;
}

std::optional<std::uint64_t> Destinations::room_at(const std::string& folder) {
    struct statvfs room {};
    if (::statvfs(nearest_existing(fs::absolute(folder)).c_str(), &room) != 0) return std::nullopt;
    return std::uint64_t{room.f_bavail} * room.f_frsize;
}

std::optional<std::uint64_t> Destinations::room() const {
    std::uint64_t sum = 0;
    std::set<dev_t> seen;
    for (const auto& folder : folders_) {
        struct stat status {};
        if (::stat(nearest_existing(fs::absolute(folder)).c_str(), &status) != 0) return std::nullopt;
        if (!seen.insert(status.st_dev).second) continue;
        const auto room = room_at(folder);
        if (!room) return std::nullopt;
        sum = saturating_add(sum, *room);
    }
    return sum;
}

}  // namespace undershelf
