#include "writing/output_file.hpp"

#include <fcntl.h>
#include <fmt/format.h>
#include <sys/stat.h>
#include <unistd.h>

#include <cerrno>
#include <ctime>
#include <filesystem>
#include <system_error>

#include "base/error.hpp"
#include "writing/files.hpp"

namespace undershelf {

namespace {

constexpr std::size_t hole_unit = 64 << 10;

[[noreturn]] void fail(const std::string& path) {
    throw std::system_error(errno, std::generic_category(), path);
}

/// A local time of unknown zone is taken as one of this machine's, so that listings show the same wall clock.
timespec to_timespec(const MaybeTime& t) {
    if (!t) return {0, UTIME_OMIT};
    auto seconds = t->ticks / Timestamp::per_second, rest = t->ticks % Timestamp::per_second;
    if (rest < 0) {
        rest += Timestamp::per_second;
        --seconds;
    }
    if (t->is_local()) {
        const auto c = civil_from_seconds(seconds);
        std::tm tm{};
        tm.tm_year = c.year - 1900;
        tm.tm_mon = c.month - 1;
        tm.tm_mday = c.day;
        tm.tm_hour = c.hour;
        tm.tm_min = c.minute;
        tm.tm_sec = c.second;
        tm.tm_isdst = -1;
        seconds = std::mktime(&tm);
    }
    return {static_cast<time_t>(seconds), static_cast<long>(rest * 100)};
}

void write_fully(int fd, Bytes bytes, const std::string& path) {
    while (!bytes.empty()) {
        const auto n = ::write(fd, bytes.data(), bytes.size());
        if (n < 0 && errno == EINTR) continue;
        if (n < 0) fail(path);
        bytes = bytes.subspan(static_cast<std::size_t>(n));
    }
}

}  // namespace

OutputFile::OutputFile(const Folder& folder, std::string temporary)
    : folder_(folder), temporary_(std::move(temporary)) {
    try {
        fd_ = folder_.open(temporary_, O_WRONLY | O_CREAT | O_EXCL);
    } catch (const std::system_error& e) {
        if (e.code() != std::errc::file_exists) throw;
        // What is left of an earlier run goes; it is not written to, since it may be somebody's hard link.
        folder_.remove(temporary_);
        fd_ = folder_.open(temporary_, O_WRONLY | O_CREAT | O_EXCL);
    }
}

OutputFile::~OutputFile() {
    fd_.reset();
    if (published_) return;
    try {
        folder_.remove(temporary_);
    } catch (const std::system_error&) {
        // It is taken away the next time.
    }
}

void OutputFile::write(Bytes bytes) {
    while (!bytes.empty()) {
        const auto part = bytes.first(std::min(bytes.size(), hole_unit));
        if (part.size() == hole_unit && all_zero(part)) {
            if (::lseek(fd_.get(), static_cast<off_t>(hole_unit), SEEK_CUR) < 0) fail(temporary_);
            ends_in_hole_ = true;
        } else {
            ends_in_hole_ = false;
            write_fully(fd_.get(), part, temporary_);
        }
        size_ += part.size();
        bytes = bytes.subspan(part.size());
    }
}

void OutputFile::try_size(std::uint64_t size) {
    if (::ftruncate(fd_.get(), static_cast<off_t>(size)) != 0 || ::ftruncate(fd_.get(), 0) != 0)
        fail(temporary_);
}

void OutputFile::sync() {
    if (::fdatasync(fd_.get()) != 0) fail(temporary_);
}

void OutputFile::close() {
    // A hole at the end only comes to be with the length.
    if (ends_in_hole_ && ::ftruncate(fd_.get(), static_cast<off_t>(size_)) != 0) fail(temporary_);
    if (modified_ || accessed_) {
        const timespec times[2] = {to_timespec(accessed_), to_timespec(modified_)};
        ::futimens(fd_.get(), times);  // a destination without dates takes the content all the same
    }
    if (::close(fd_.release()) != 0) fail(temporary_);
}

void OutputFile::publish(const std::string& name) {
    close();
    folder_.rename_without_replacing(temporary_, name);
    published_ = true;
}

void save_new_file(const SourceGuard& guard, const std::string& path,
                   const std::function<void(OutputFile&)>& write) {
    const std::filesystem::path absolute = std::filesystem::absolute(path);
    guard.refuse(path);
    if (std::filesystem::exists(std::filesystem::symlink_status(absolute)))
        throw Error(Trouble::refused,
                    fmt::format("{} is there already; nothing is overwritten. Give another name.", path));
    const Folder folder(guard, absolute.parent_path().string());
    OutputFile out(folder, absolute.filename().string() + new_suffix);
    write(out);
    out.publish(absolute.filename().string());
}

std::string in_words(const std::error_code& code) {
    switch (code.value()) {
        case ENAMETOOLONG:
            return "its path is too long for the destination";
        case ENOSPC:
            return "the destination has no room for more files";
        case EFBIG:
            return "the destination takes no files of its size";
        case EEXIST:
            return "a file of its name came to be in the bag meanwhile";
        case EACCES:
        case EPERM:
            return "the destination does not allow it to be written";
        case EROFS:
            return "the destination has become read-only";
        case EIO:
            return "the destination drive reports an error";
        case ELOOP:
            return "a link is in its place in the bag, and links are not followed";
        case EXDEV:
            return "another drive is mounted in the bag, and nothing is written there";
        case ENOTDIR:
            return "a file is in the place of its folder";
        case ENOENT:
            return "its folder could not be made, or was taken away";
        default:
            return code.message();
    }
}

void set_folder_times(const Folder& folder, const std::string& relative, const MaybeTime& modified,
                      const MaybeTime& accessed) {
    const timespec times[2] = {to_timespec(accessed), to_timespec(modified)};
    try {
        const auto fd = folder.open(relative, O_RDONLY | O_DIRECTORY);
        ::futimens(fd.get(), times);
    } catch (const std::system_error&) {
        // What is in it counts.
    }
}

}  // namespace undershelf
