#include "writing/files.hpp"

#include <fcntl.h>
#include <fmt/format.h>
#include <sys/stat.h>
#include <unistd.h>

#include <cerrno>
#include <cstdio>
#include <filesystem>
#include <system_error>

#include "base/error.hpp"

namespace undershelf {

namespace {

[[noreturn]] void fail(const std::string& path) {
    throw std::system_error(errno, std::generic_category(), path);
}

void write_out(int fd, std::string_view text, const std::string& path) {
    while (!text.empty()) {
        const auto n = ::write(fd, text.data(), text.size());
        if (n < 0 && errno == EINTR) continue;
        if (n < 0) fail(path);
        text.remove_prefix(static_cast<std::size_t>(n));
    }
    if (::fdatasync(fd) != 0) fail(path);
}

}  // namespace

FileDescriptor open_to_write(const SourceGuard& guard, const std::string& path, There there) {
    guard.refuse(path);
    struct stat status {};
    // Opening a pipe or a device can wait, or do something; so they are never opened.
    if (there != There::must_not && ::stat(path.c_str(), &status) == 0 && !S_ISREG(status.st_mode))
        throw Error(
            Trouble::refused,
            fmt::format("{} is {}, and not a file. Nothing is written there. Give another name.", path,
                        S_ISDIR(status.st_mode)   ? "a folder"
                        : S_ISBLK(status.st_mode) ? "a drive"
                                                  : "a device or a pipe"));
    const int how = there == There::must_not ? O_CREAT | O_EXCL : there == There::may ? O_CREAT : 0;
    FileDescriptor fd(::open(path.c_str(), O_RDWR | O_CLOEXEC | O_NONBLOCK | how, 0644));
    if (!fd) fail(path);
    return fd;
}

ReplacedFile::ReplacedFile(const SourceGuard& guard, std::string path) : path_(std::move(path)) {
    guard.refuse(path_);
    guard.refuse(path_ + new_suffix);
}

void ReplacedFile::write(std::string_view text) const {
    const auto fresh = path_ + new_suffix;
    ::unlink(fresh.c_str());
    const FileDescriptor fd(
        ::open(fresh.c_str(), O_WRONLY | O_CREAT | O_EXCL | O_CLOEXEC | O_NOFOLLOW, 0644));
    if (!fd) fail(fresh);
    try {
        write_out(fd.get(), text, fresh);
        if (std::rename(fresh.c_str(), path_.c_str()) != 0) fail(path_);
    } catch (const std::system_error&) {
        ::unlink(fresh.c_str());
        throw;
    }
    // The name itself is in the folder. Not every file system has folders that can be synced.
    const auto folder = std::filesystem::absolute(path_).parent_path();
    const FileDescriptor dir(::open(folder.c_str(), O_RDONLY | O_DIRECTORY | O_CLOEXEC));
    if (dir) ::fsync(dir.get());
}

void remove_quietly(const std::string& path) {
    ::unlink(path.c_str());
}

}  // namespace undershelf
