#include <fcntl.h>
#include <fmt/format.h>
#include <linux/fs.h>
#include <sys/ioctl.h>
#include <sys/stat.h>
#include <unistd.h>

#include <cerrno>
#include <cstring>

#include "base/error.hpp"
#include "source/byte_device.hpp"

namespace undershelf {

namespace {

class FileDevice final : public ByteDevice {
  public:
    FileDevice(std::string path, int fd, std::uint64_t size, std::uint32_t sector_size, bool regular)
        : path_(std::move(path)), fd_(fd), size_(size), sector_size_(sector_size), regular_(regular) {}
    ~FileDevice() override { ::close(fd_); }
    FileDevice(const FileDevice&) = delete;
    FileDevice& operator=(const FileDevice&) = delete;

    std::string path() const override { return path_; }
    std::uint64_t size() const override { return size_; }
    std::uint32_t sector_size() const override { return sector_size_; }

    bool read_at(std::uint64_t offset, MutableBytes out) const override {
        while (!out.empty()) {
            const auto got = read_once(offset, out);
            if (got == 0) return false;
            offset += got;
            out = out.subspan(got);
        }
        return true;
    }

    /// A read that ends early has met its first trouble there: what is after it is another question.
    std::size_t read_some(std::uint64_t offset, MutableBytes out) const override {
        const auto got = read_once(offset, out);
        return got / sector_size_ * sector_size_ == got || offset + got == size_
                   ? got
                   : got / sector_size_ * sector_size_;
    }

    std::string changed() const override {
        struct stat now {};
        if (::stat(path_.c_str(), &now) != 0) return "it is not there any more";
        if (regular_) {
            const auto bytes = static_cast<std::uint64_t>(now.st_size);
            return bytes == size_ ? "" : fmt::format("it has {} bytes now, and had {}", bytes, size_);
        }
        std::uint64_t bytes = 0;
        if (::ioctl(fd_, BLKGETSIZE64, &bytes) != 0 || bytes == 0) return "the drive is not there any more";
        return bytes == size_ ? "" : fmt::format("the drive has {} bytes now, and had {}", bytes, size_);
    }

    std::vector<ByteRange> data_ranges() const override {
        if (!regular_) return ByteDevice::data_ranges();
        std::vector<ByteRange> out;
        off_t at = 0;
        while (at < static_cast<off_t>(size_)) {
            const off_t data = ::lseek(fd_, at, SEEK_DATA);
            if (data < 0) return errno == ENXIO ? out : ByteDevice::data_ranges();
            const off_t hole = ::lseek(fd_, data, SEEK_HOLE);
            if (hole < 0) return ByteDevice::data_ranges();
            out.push_back({static_cast<std::uint64_t>(data), static_cast<std::uint64_t>(hole - data)});
            at = hole;
        }
        return out;
    }

  private:
    /// Bytes that were read, 0 where nothing could be.
    std::size_t read_once(std::uint64_t offset, MutableBytes out) const {
        for (;;) {
            const auto got = ::pread(fd_, out.data(), out.size(), static_cast<off_t>(offset));
            if (got < 0 && errno == EINTR) continue;
            return got > 0 ? static_cast<std::size_t>(got) : 0;
        }
    }

    std::string path_;
    int fd_;
    std::uint64_t size_;
    std::uint32_t sector_size_;
    bool regular_;
};

[[noreturn]] void refuse(const std::string& path, const std::string& why) {
    throw Error(Trouble::input, fmt::format("{} cannot be examined: {}.", path, why));
}

/// Without the right to read it: how to get it, without a right to write.
[[noreturn]] void refuse(const std::string& path, int error, bool drive) {
    if (error != EACCES && error != EPERM) refuse(path, std::strerror(error));
    throw Error(
        Trouble::input,
        drive
            ? fmt::format("You may not read {0}. Give the command once more with sudo before it, which reads "
                          "and writes nothing to the drive: sudo undershelf inspect {0}",
                          path)
            : fmt::format("You may not read {0}. Its owner can change that: chmod a+r {0}", path));
}

/// Past the cache only where that is a drive's own: of a file the cache holds what is there. Without it the
/// system is told at least not to read on by itself.
int open_for(const std::string& path, Access access, bool drive) {
    if (access == Access::direct && drive) {
        if (const int fd = ::open(path.c_str(), O_RDONLY | O_CLOEXEC | O_DIRECT); fd >= 0) return fd;
    }
    const int fd = ::open(path.c_str(), O_RDONLY | O_CLOEXEC);
    if (fd >= 0 && access == Access::direct && drive) ::posix_fadvise(fd, 0, 0, POSIX_FADV_RANDOM);
    return fd;
}

}  // namespace

std::unique_ptr<ByteDevice> open_file_device(const std::string& path, Access access) {
    struct stat status {};
    if (::stat(path.c_str(), &status) != 0) refuse(path, errno, false);
    if (S_ISDIR(status.st_mode)) refuse(path, "it is a folder; give an image file or a block device");
    if (!S_ISREG(status.st_mode) && !S_ISBLK(status.st_mode)) {
        refuse(path,
               "it is neither a file nor a block device, and a source must be readable at any place; copy it "
               "to a file first");
    }
    const int fd = open_for(path, access, S_ISBLK(status.st_mode));
    if (fd < 0) refuse(path, errno, S_ISBLK(status.st_mode));
    std::uint64_t size = static_cast<std::uint64_t>(status.st_size);
    int sector_size = 512;
    if (S_ISBLK(status.st_mode)) {
        if (::ioctl(fd, BLKGETSIZE64, &size) != 0) {
            const int error = errno;
            ::close(fd);
            refuse(path, fmt::format("its size cannot be asked ({})", std::strerror(error)));
        }
        if (::ioctl(fd, BLKSSZGET, &sector_size) != 0 || sector_size < 512) sector_size = 512;
    }
    if (size == 0) {
        ::close(fd);
        refuse(path, "it is empty");
    }
    return std::make_unique<FileDevice>(path, fd, size, static_cast<std::uint32_t>(sector_size),
                                        S_ISREG(status.st_mode));
}

}  // namespace undershelf
