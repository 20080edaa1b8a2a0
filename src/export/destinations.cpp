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

std::unordered_map<std::int64_t, int> held_in(const std::string& path, const BagOwner& owner) {
    std::unordered_map<std::int64_t, int> out;
    std::error_code ec;
    if (!fs::is_directory(path, ec)) return out;
    try {
        const Folder folder(path);
        const BagPast past(folder, owner);
        past.each_finished([&](const std::string&, LineGist&& line) {
            if (!line.path_in_bag || !past.is_there(line)) return;
            auto& revision = out[line.id];
            revision = std::max(revision, line.revision);
        });
        for (const auto& [e, synced] : past.unfinished()) {
            const bool there =
                e.path_in_bag && (folder.status(*e.path_in_bag) || folder.status(Bag::part_path(e.id)));
            if (there) out.insert_or_assign(e.id, e.revision);
        }
    } catch (const std::system_error&) {
        // Whoever writes there says so.
    }
    return out;
}

}  // namespace

BagOwner owner_of(const Shelf& shelf, const ExportOptions& options) {
    return {shelf.identity(), shelf.source(), describe_job(shelf.source(), options),
            options.command.arguments};
}

Destinations::Destinations(const Shelf& shelf, const ExportOptions& options) : folders_(options.to) {
    const auto owner = owner_of(shelf, options);
    std::set<fs::path> seen;
    for (const auto& folder : folders_) {
        if (!seen.insert(absolute_path(folder)).second)
            throw Error(Trouble::usage, fmt::format("--to gives {} twice.", folder));
        held_.push_back(held_in(folder, owner));
    }
}

bool Destinations::has(const ShelfEntry& entry, std::size_t but) const {
    for (std::size_t i = 0; i < held_.size(); ++i) {
        const auto it = held_[i].find(entry.id);
        if (i != but && it != held_[i].end() && it->second >= entry.revision) return true;
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
