#include "writing/storage.hpp"

#include <fcntl.h>
#include <fmt/format.h>
#include <linux/loop.h>
#include <sys/ioctl.h>
#include <sys/stat.h>
#include <sys/sysmacros.h>

#include <charconv>
#include <filesystem>
#include <fstream>
#include <optional>

#include "base/file_descriptor.hpp"
#include "source/mounts.hpp"

namespace fs = std::filesystem;

namespace undershelf {

namespace {

/// Loop devices over files on loop devices ...; and links, as many as the kernel follows.
constexpr int most_levels = 16, most_links = 40;
constexpr ByteRange everything{0, 1ull << 62};
constexpr std::uint64_t sysfs_sector = 512;  ///< bytes, whatever the device's own are

std::optional<struct stat> status_of(const std::string& path) {
    struct stat s {};
    if (::stat(path.c_str(), &s) != 0) return std::nullopt;
    return s;
}

std::string first_line(const fs::path& file) {
    std::ifstream in(file);
    std::string line;
    std::getline(in, line);
    return line;
}

std::uint64_t number_in(const fs::path& file) {
    const auto line = first_line(file);
    std::uint64_t out = 0;
    std::from_chars(line.data(), line.data() + line.size(), out);
    return out;
}

/// `8:1`
std::optional<dev_t> device_in_text(const std::string& line) {
    unsigned major = 0, minor = 0;
    const auto* end = line.data() + line.size();
    const auto [colon, ec] = std::from_chars(line.data(), end, major);
    if (ec != std::errc{} || colon == end || *colon != ':' ||
        std::from_chars(colon + 1, end, minor).ec != std::errc{})
        return std::nullopt;
    return makedev(major, minor);
}
std::optional<dev_t> device_in(const fs::path& file) {
    return device_in_text(first_line(file));
}

/// `part` of what begins at `from` of something larger.
ByteRange within(const ByteRange& part, std::uint64_t from, std::uint64_t size) {
    const auto length = size > part.offset ? std::min(part.length, size - part.offset) : 0;
    return {from + part.offset, length};
}

/// The mounted file system that holds `path`: the mount point that is the longest start of it, the last such
/// line.
std::optional<MountLine> mount_of(const std::string& path, const std::string& mount_table) {
    std::error_code ec;
    const auto real = fs::canonical(path, ec).string();
    std::optional<MountLine> best;
    for (auto& m : read_mounts(mount_table)) {
        const bool holds = m.point == "/" || real == m.point || real.starts_with(m.point + "/");
        if (holds && (!best || m.point.size() >= best->point.size())) best = std::move(m);
    }
    return best;
}

/// Goes down from one thing to what it is made from.
class Descent {
  public:
    /// `writing`: with the file systems that files lie on.
    Descent(const SystemPlaces& places, bool writing) : places_(places), writing_(writing) {}

    std::vector<Storage> found() && { return std::move(found_); }

    void path(const std::string& path, const struct stat& status, const ByteRange& bytes = everything) {
        if (S_ISBLK(status.st_mode)) return device(status.st_rdev, bytes);
        if (!enter()) return;
        if (S_ISREG(status.st_mode)) found_.push_back({false, status.st_dev, status.st_ino, bytes});
        if (writing_) under(path, status);
        --level_;
    }

    /// What lies below the file system of a file or folder.
    void under(const std::string& path, const struct stat& status) {
        device(status.st_dev, everything);
        const auto mount = mount_of(path, places_.mount_table);
        if (!mount || !enter()) return;
        if (const auto number = device_in_text(mount->device)) device(*number, everything);
        if (const auto from = status_of(mount->from); from && mount->from.starts_with("/"))
            this->path(mount->from, *from);
        if (const auto upper = mount->option("upperdir"); upper.starts_with("/")) {
            if (const auto folder = status_of(upper)) under(upper, *folder);
        }
        --level_;
    }

  private:
    void device(dev_t number, const ByteRange& bytes) {
        const auto node =
            fs::path(places_.sys) / "dev/block" / fmt::format("{}:{}", major(number), minor(number));
        std::error_code ec;
        const auto real = fs::canonical(node, ec);
        found_.push_back({true, number, 0, bytes});
        if (ec || !enter()) return;
        if (fs::exists(real / "partition", ec)) {
            if (const auto disk = device_in(real.parent_path() / "dev"))
                device(*disk, within(bytes, number_in(real / "start") * sysfs_sector,
                                     number_in(real / "size") * sysfs_sector));
        } else if (fs::exists(real / "loop", ec)) {
            loop(real, bytes);
        }
        for (const auto& slave : fs::directory_iterator(real / "slaves", ec)) {
            // How they are put together is not said here.
            if (const auto one = device_in(slave.path() / "dev")) device(*one, everything);
        }
        --level_;
    }

    /// By the path that the kernel remembers, and by the numbers of the file, which hold when it was renamed.
    void loop(const fs::path& node, const ByteRange& bytes) {
        const auto limit = number_in(node / "loop/sizelimit");
        const auto part = within(bytes, number_in(node / "loop/offset"), limit ? limit : everything.length);
        const auto file = first_line(node / "loop/backing_file");
        if (const auto status = status_of(file)) path(file, *status, part);
        const FileDescriptor fd(
            ::open(("/dev/" + node.filename().string()).c_str(), O_RDONLY | O_CLOEXEC | O_NONBLOCK));
        struct loop_info64 info {};
        if (places_.sys == "/sys" && fd && ::ioctl(fd.get(), LOOP_GET_STATUS64, &info) == 0)
            found_.push_back(
                {false, static_cast<dev_t>(info.lo_device), static_cast<ino_t>(info.lo_inode), part});
    }

    bool enter() { return ++level_ <= most_levels || (--level_, false); }

    const SystemPlaces& places_;
    bool writing_;
    int level_ = 0;
    std::vector<Storage> found_;
};

}  // namespace

fs::path nearest_existing(fs::path path) {
    std::error_code ec;
    while (!fs::exists(path, ec) && path.has_relative_path()) path = path.parent_path();
    return path;
}

std::string target_of(const std::string& path) {
    auto target = fs::absolute(path);
    std::error_code ec;
    for (int i = 0; i < most_links && fs::is_symlink(fs::symlink_status(target, ec)); ++i) {
        const auto link = fs::read_symlink(target, ec);
        if (ec) break;
        target = link.is_absolute() ? link : target.parent_path() / link;
    }
    return target.string();
}

StorageRead storage_read(const std::string& path, const SystemPlaces& places) {
    StorageRead out;
    const auto status = status_of(path);
    if (!status) return out;
    Descent content(places, false);
    content.path(path, *status);
    out.content = std::move(content).found();
    const auto mount = S_ISREG(status->st_mode) ? mount_of(path, places.mount_table) : std::nullopt;
    if (mount && mount->type.starts_with("fuse") && mount->from.starts_with("/")) {
        Descent perhaps(places, false);
        if (const auto from = status_of(mount->from)) perhaps.path(mount->from, *from);
        out.perhaps = std::move(perhaps).found();
    }
    return out;
}

StorageWritten storage_written(const std::string& path, const SystemPlaces& places) {
    StorageWritten out;
    const auto target = target_of(path);
    const auto there = nearest_existing(target).string();
    const auto status = status_of(there);
    if (!status) return out;
    // A file's bytes, and a device's with what it is made from, are changed by writing to it alone.
    if (!S_ISDIR(status->st_mode) && there == target) out.itself = storage_read(target, places).content;
    Descent below(places, true);
    if (S_ISDIR(status->st_mode)) {
        below.under(there, *status);
    } else {
        below.path(there, *status);
    }
    out.below = std::move(below).found();
    return out;
}

bool meet(const std::vector<Storage>& a, const std::vector<Storage>& b) {
    for (const auto& x : a) {
        for (const auto& y : b) {
            if (x.is_device == y.is_device && x.device == y.device && x.file == y.file &&
                overlap(x.bytes, y.bytes))
                return true;
        }
    }
    return false;
}

}  // namespace undershelf
