#include "export/output_file.hpp"

#include <fcntl.h>
#include <sys/stat.h>
#include <unistd.h>

#include <cerrno>
#include <ctime>
#include <system_error>

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

OutputFile::OutputFile(std::string temporary) : temporary_(std::move(temporary)) {
    fd_ = ::open(temporary_.c_str(), O_WRONLY | O_CREAT | O_TRUNC | O_CLOEXEC | O_NOFOLLOW, 0644);
    if (fd_ < 0) fail(temporary_);
}

OutputFile::~OutputFile() {
    if (fd_ >= 0) ::close(fd_);
    if (!published_) ::unlink(temporary_.c_str());
}

void OutputFile::write(Bytes bytes) {
    while (!bytes.empty()) {
        const auto part = bytes.first(std::min(bytes.size(), hole_unit));
        if (part.size() == hole_unit && all_zero(part)) {
            if (::lseek(fd_, static_cast<off_t>(hole_unit), SEEK_CUR) < 0) fail(temporary_);
            ends_in_hole_ = true;
        } else {
            ends_in_hole_ = false;
            write_fully(fd_, part, temporary_);
        }
        size_ += part.size();
        bytes = bytes.subspan(part.size());
    }
}

void OutputFile::try_size(std::uint64_t size) {
    if (::ftruncate(fd_, static_cast<off_t>(size)) != 0 || ::ftruncate(fd_, 0) != 0) fail(temporary_);
}

void OutputFile::sync() {
    if (::fdatasync(fd_) != 0) fail(temporary_);
}

void OutputFile::close() {
    // A hole at the end only comes to be with the length.
    if (ends_in_hole_ && ::ftruncate(fd_, static_cast<off_t>(size_)) != 0) fail(temporary_);
    if (modified_ || accessed_) {
        const timespec times[2] = {to_timespec(accessed_), to_timespec(modified_)};
        ::futimens(fd_, times);  // a destination without dates takes the content all the same
    }
    const int fd = fd_;
    fd_ = -1;
    if (::close(fd) != 0) fail(temporary_);
}

void OutputFile::publish(const std::string& path) {
    close();
    rename_without_replacing(temporary_, path);
    published_ = true;
}

void rename_without_replacing(const std::string& from, const std::string& to) {
    if (::renameat2(AT_FDCWD, from.c_str(), AT_FDCWD, to.c_str(), RENAME_NOREPLACE) == 0) return;
    if (errno != EINVAL && errno != ENOSYS) fail(to);
    // Some file systems cannot do it in one step.
    struct stat status {};
    if (::lstat(to.c_str(), &status) == 0) {
        errno = EEXIST;
        fail(to);
    }
    if (::rename(from.c_str(), to.c_str()) != 0) fail(to);
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
        case ENOENT:
            return "its folder could not be made, or was taken away";
        default:
            return code.message();
    }
}

void write_small_file(const std::string& path, const std::string& content) {
    OutputFile file(path + ".part");
    file.write({reinterpret_cast<const std::uint8_t*>(content.data()), content.size()});
    file.publish(path);
}

void set_path_times(const std::string& path, const MaybeTime& modified, const MaybeTime& accessed) {
    const timespec times[2] = {to_timespec(accessed), to_timespec(modified)};
    ::utimensat(AT_FDCWD, path.c_str(), times, AT_SYMLINK_NOFOLLOW);
}

}  // namespace undershelf
