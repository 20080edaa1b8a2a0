#include "source/destination_guard.hpp"

#include <fmt/format.h>
#include <sys/stat.h>
#include <sys/sysmacros.h>

#include <filesystem>
#include <fstream>
#include <optional>
#include <sstream>

#include "base/error.hpp"

namespace fs = std::filesystem;

namespace undershelf {

namespace {

std::optional<struct stat> status_of(const fs::path& path) {
    struct stat s {};
    if (::stat(path.c_str(), &s) != 0) return std::nullopt;
    return s;
}

fs::path nearest_existing(fs::path path) {
    path = fs::absolute(path).lexically_normal();
    std::error_code ec;
    while (!fs::exists(path, ec) && path != path.root_path()) path = path.parent_path();
    return path;
}

std::string number_text(dev_t device) {
    return fmt::format("{}:{}", major(device), minor(device));
}

/// True when `device` is `whole` itself, one of its partitions, or a loop device over it, by what the kernel
/// says.
bool stands_on(const std::string& device, const struct stat& source) {
    const fs::path node = fs::path("/sys/dev/block") / device;
    std::error_code ec;
    if (S_ISBLK(source.st_mode)) {
        if (device == number_text(source.st_rdev)) return true;
        // The node of a partition lies below the node of its disk.
        std::string above;
        std::ifstream in(node / ".." / "dev");
        return std::getline(in, above) && above == number_text(source.st_rdev);
    }
    for (const auto& loop : {node / "loop" / "backing_file", node / ".." / "loop" / "backing_file"}) {
        std::ifstream in(loop);
        std::string path;
        if (!std::getline(in, path)) continue;
        const auto backing = status_of(path);
        if (backing && backing->st_dev == source.st_dev && backing->st_ino == source.st_ino) return true;
    }
    return false;
}

}  // namespace

void refuse_destination_on_source(const std::string& source, const std::string& destination,
                                  const std::string& mount_table) {
    const auto source_status = status_of(source);
    if (!source_status) return;
    const auto there = nearest_existing(destination);
    const auto status = status_of(there);
    if (!status) return;
    const bool same_file = status->st_dev == source_status->st_dev && status->st_ino == source_status->st_ino;
    const bool same_device = S_ISBLK(status->st_mode) && S_ISBLK(source_status->st_mode) &&
                             status->st_rdev == source_status->st_rdev;
    if (same_file || same_device) {
        throw Error(Trouble::refused,
                    fmt::format("{} is the source itself; nothing is ever written there. Give another place.",
                                destination));
    }
    std::ifstream mounts(mount_table);
    std::string line;
    const auto holder = number_text(status->st_dev);
    while (std::getline(mounts, line)) {
        // Fields: id, parent id, device number, root, mount point, options ... - type, device, options.
        std::istringstream fields(line);
        std::string id, parent, device, root, point;
        if (!(fields >> id >> parent >> device >> root >> point)) continue;
        if (device == holder && stands_on(device, *source_status)) {
            throw Error(Trouble::refused,
                        fmt::format("{} lies on a file system that is mounted from the source {} (at {}); "
                                    "writing there would change it. Give a place on another drive.",
                                    destination, source, point));
        }
    }
}

}  // namespace undershelf
