#include "capture/image_file.hpp"

#include <fcntl.h>
#include <fmt/format.h>
#include <sys/file.h>
#include <sys/stat.h>

#include <cerrno>
#include <cstring>
#include <system_error>

#include "base/error.hpp"

namespace undershelf {

namespace {

/// Zeros in shorter runs are written: a hole each would cost more than it saves.
constexpr std::size_t hole_unit = 4096;
/// The names of parts have at least three digits.
constexpr int part_digits = 3;

[[noreturn]] void fail(const std::string& path) {
    throw std::system_error(errno, std::generic_category(), path);
}

[[noreturn]] void cannot_make(const std::string& path, std::uint64_t length) {
    const int error = errno;
    throw Error(Trouble::output,
                error == EFBIG
                    ? fmt::format("{} cannot have {} bytes: files on that drive cannot be so long. Copy into "
                                  "parts, with --split 4G, or give a place on another drive.",
                                  path, length)
                    : fmt::format("{} cannot be written: {}.", path, std::strerror(error)));
}

}  // namespace

std::vector<std::string> ImageFile::names(const std::string& path, std::uint64_t size,
                                          std::uint64_t part_size) {
    if (part_size == 0) return {path};
    const auto count = (size + part_size - 1) / part_size;
    const auto digits = std::max<int>(part_digits, static_cast<int>(std::to_string(count).size()));
    std::vector<std::string> out;
    for (std::uint64_t i = 1; i <= count; ++i) out.push_back(fmt::format("{}.{:0{}}", path, i, digits));
    return out;
}

ImageFile::ImageFile(const std::string& path, std::uint64_t size, std::uint64_t part_size, bool fresh)
    : size_(size), fresh_(fresh) {
    std::uint64_t at = 0;
    bool cut = false;
    for (const auto& name : names(path, size, part_size)) {
        Part part;
        part.path = name;
        part.offset = at;
        part.length = part_size ? std::min(part_size, size - at) : size;
        part.fd =
            FileDescriptor(::open(name.c_str(), O_RDWR | O_CREAT | O_CLOEXEC | (fresh ? O_EXCL : 0), 0644));
        if (!part.fd && errno == EEXIST)
            throw Error(
                Trouble::refused,
                fmt::format("{} is there already, and nothing says that it is a copy of this source. It "
                            "is not written over: give the image another name.",
                            name));
        if (!part.fd) cannot_make(name, part.length);
        if (::flock(part.fd.get(), LOCK_EX | LOCK_NB) != 0)
            throw Error(Trouble::refused,
                        fmt::format("{} is being written by another capture; wait for it to end.", name));
        struct stat status {};
        if (::fstat(part.fd.get(), &status) != 0) cannot_make(name, part.length);
        const auto there = std::min(part.length, static_cast<std::uint64_t>(status.st_size));
        if (!cut) was_long_ = at + there;
        cut |= there < part.length;
        if (static_cast<std::uint64_t>(status.st_size) != part.length &&
            ::ftruncate(part.fd.get(), static_cast<off_t>(part.length)) != 0) {
            const int error = errno;
            if (fresh) ::unlink(name.c_str());
            errno = error;
            cannot_make(name, part.length);
        }
        at += part.length;
        parts_.push_back(std::move(part));
    }
}

template <class Parts, class Visit>
void ImageFile::each(Parts& parts, const ByteRange& range, const Visit& visit) {
    for (auto& part : parts) {
        if (const auto inside = overlap({part.offset, part.length}, range))
            visit(part, inside->offset - part.offset, *inside);
    }
}

void ImageFile::write(std::uint64_t offset, Bytes bytes) {
    each(parts_, {offset, bytes.size()}, [&](Part& part, std::uint64_t at, const ByteRange& range) {
        auto rest = bytes.subspan(static_cast<std::size_t>(range.offset - offset),
                                  static_cast<std::size_t>(range.length));
        // Runs of zeros and of others take turns.
        while (!rest.empty()) {
            const auto is_hole = [&](std::size_t from) {
                return rest.size() - from >= hole_unit && all_zero(rest.subspan(from, hole_unit));
            };
            const bool hole = is_hole(0);
            std::size_t n = 0;
            while (n < rest.size() && is_hole(n) == hole) n = std::min(n + hole_unit, rest.size());
            hole ? punch(part, at, n) : write_out(part, at, rest.first(n));
            at += n;
            rest = rest.subspan(n);
        }
    });
}

void ImageFile::write_out(Part& part, std::uint64_t at, Bytes bytes) {
    part.touched = true;
    while (!bytes.empty()) {
        const auto n = ::pwrite(part.fd.get(), bytes.data(), bytes.size(), static_cast<off_t>(at));
        if (n < 0 && errno == EINTR) continue;
        if (n < 0) fail(part.path);
        at += static_cast<std::uint64_t>(n);
        bytes = bytes.subspan(static_cast<std::size_t>(n));
    }
}

/// In a file just made everything is a hole that was not written.
void ImageFile::punch(Part& part, std::uint64_t at, std::uint64_t length) {
    if (fresh_) return;
    const auto data = ::lseek(part.fd.get(), static_cast<off_t>(at), SEEK_DATA);
    if (data < 0 ? errno == ENXIO : static_cast<std::uint64_t>(data) >= at + length) return;
    part.touched = true;
    if (::fallocate(part.fd.get(), FALLOC_FL_PUNCH_HOLE | FALLOC_FL_KEEP_SIZE, static_cast<off_t>(at),
                    static_cast<off_t>(length)) == 0)
        return;
    const ByteVector zeros(64 << 10);
    while (length) {
        const auto n = std::min<std::uint64_t>(length, zeros.size());
        write_out(part, at, Bytes(zeros).first(static_cast<std::size_t>(n)));
        at += n;
        length -= n;
    }
}

void ImageFile::clear(const ByteRange& range) {
    each(parts_, range,
         [&](Part& part, std::uint64_t at, const ByteRange& inside) { punch(part, at, inside.length); });
}

bool ImageFile::read(std::uint64_t offset, MutableBytes out) const {
    bool whole = offset + out.size() <= size_;
    each(parts_, {offset, out.size()}, [&](const Part& part, std::uint64_t at, const ByteRange& range) {
        auto into = out.subspan(static_cast<std::size_t>(range.offset - offset),
                                static_cast<std::size_t>(range.length));
        while (whole && !into.empty()) {
            const auto n = ::pread(part.fd.get(), into.data(), into.size(), static_cast<off_t>(at));
            if (n < 0 && errno == EINTR) continue;
            whole = n > 0;
            if (!whole) break;
            at += static_cast<std::uint64_t>(n);
            into = into.subspan(static_cast<std::size_t>(n));
        }
    });
    return whole;
}

void ImageFile::sync() {
    for (auto& part : parts_) {
        if (part.touched && ::fdatasync(part.fd.get()) != 0) fail(part.path);
        part.touched = false;
    }
}

}  // namespace undershelf
