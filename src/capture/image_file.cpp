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

std::uint64_t length_of(int fd, const std::string& path) {
    struct stat status {};
    if (::fstat(fd, &status) != 0) fail(path);
    return static_cast<std::uint64_t>(status.st_size);
}

/// The parts of `range` that are not holes; all of it where that cannot be told.
std::vector<ByteRange> data_in(int fd, const ByteRange& range) {
    std::vector<ByteRange> out;
    for (auto at = range.offset; at < range.end();) {
        const auto data = ::lseek(fd, static_cast<off_t>(at), SEEK_DATA);
        if (data < 0 && errno == ENXIO) break;
        const auto hole = data < 0 ? -1 : ::lseek(fd, data, SEEK_HOLE);
        if (hole < 0) return {range};
        if (const auto inside =
                overlap(range, {static_cast<std::uint64_t>(data), static_cast<std::uint64_t>(hole - data)}))
            out.push_back(*inside);
        at = static_cast<std::uint64_t>(hole);
    }
    return out;
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

template <class Parts, class Visit>
void ImageFile::each(Parts& parts, const ByteRange& range, const Visit& visit) {
    for (auto& part : parts) {
        if (const auto inside = overlap({part.offset, part.length}, range))
            visit(part, inside->offset - part.offset, *inside);
    }
}

ImageFile::ImageFile(const SourceGuard& guard, const std::string& path, std::uint64_t size,
                     std::uint64_t part_size, There there)
    : size_(size) {
    bool cut = false;
    try {
        for (const auto& name : names(path, size, part_size)) {
            const auto at = parts_.empty() ? 0 : parts_.back().offset + parts_.back().length;
            auto& part = parts_.emplace_back();
            part.path = name;
            part.offset = at;
            part.length = part_size ? std::min(part_size, size - at) : size;
            open(guard, part, there);
            const auto has = length_of(part.fd.get(), name);
            if (has > part.length)
                throw Error(
                    Trouble::refused,
                    fmt::format("{} has {} bytes, and this copy of the source has {}: it is something "
                                "else. It is not written over. Give the image another name.",
                                name, has, part.length));
            if (!cut) was_long_ = at + has;
            cut |= has < part.length;
        }
    } catch (...) {
        take_away();
        throw;
    }
}

ImageFile::~ImageFile() {
    if (!kept_) take_away();
}

void ImageFile::take_away() {
    for (const auto& part : parts_) {
        if (part.made) remove_quietly(part.path);
    }
}

void ImageFile::open(const SourceGuard& guard, Part& part, There there) {
    const auto& name = part.path;
    struct stat status {};
    const bool is_there = ::lstat(name.c_str(), &status) == 0;
    // A capture that was cut off at its very start leaves files with nothing in them; nothing is lost with
    // one.
    const bool nothing_in_it = is_there && S_ISREG(status.st_mode) && status.st_size == 0;
    if (there == There::must_not && is_there && !nothing_in_it)
        throw Error(
            Trouble::refused,
            fmt::format("{} is there already, and nothing says that it is a copy of this source. It is "
                        "not written over. Give the image another name.",
                        name));
    try {
        part.fd = open_to_write(guard, name, is_there ? There::must : there);
    } catch (const std::system_error& e) {
        errno = e.code().value();
        cannot_make(name, part.length);
    }
    part.made = !is_there;
    if (::flock(part.fd.get(), LOCK_EX | LOCK_NB) != 0) {
        part.made = false;
        throw Error(Trouble::refused,
                    fmt::format("{} is being written by another capture; wait for it to end.", name));
    }
    // Somebody may have put something there meanwhile.
    if (nothing_in_it && length_of(part.fd.get(), name) > 0)
        throw Error(Trouble::refused, fmt::format("{} is being written by something else.", name));
}

std::vector<ByteRange> ImageFile::places_with_data(std::size_t most, std::uint64_t length) const {
    std::vector<ByteRange> data, out;
    for (const auto& part : parts_) {
        const auto there = std::min(part.length, length_of(part.fd.get(), part.path));
        for (const auto& r : data_in(part.fd.get(), {0, there}))
            data.push_back({part.offset + r.offset, r.length});
    }
    const auto apart = std::max<std::uint64_t>(total_length(data) / most, length);
    std::uint64_t next = 0;  // bytes of data from the last place found, before which none is taken
    ByteVector bytes(static_cast<std::size_t>(length));
    for (const auto& range : data) {
        if (next >= range.length) {
            next -= range.length;
            continue;
        }
        for (auto at = std::exchange(next, 0); at < range.length && out.size() < most;) {
            const ByteRange place{range.offset + at, std::min(length, range.length - at)};
            const auto into = MutableBytes(bytes).first(static_cast<std::size_t>(place.length));
            const bool found = read(place.offset, into) && !all_zero(into);
            if (found) out.push_back(place);
            at += found ? apart : place.length;
            next = at > range.length ? at - range.length : 0;
        }
    }
    return out;
}

std::uint64_t ImageFile::room_taken(const std::vector<ByteRange>& ranges) const {
    std::uint64_t out = 0;
    for (const auto& range : ranges) {
        each(parts_, range, [&](const Part& part, std::uint64_t at, const ByteRange& inside) {
            out += total_length(data_in(part.fd.get(), {at, inside.length}));
        });
    }
    return out;
}

void ImageFile::set_length() {
    for (const auto& part : parts_) {
        if (length_of(part.fd.get(), part.path) != part.length &&
            ::ftruncate(part.fd.get(), static_cast<off_t>(part.length)) != 0)
            cannot_make(part.path, part.length);
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
    if (part.made) return;
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

void ImageFile::give_back(const ByteRange& range) {
    each(parts_, range, [](Part& part, std::uint64_t at, const ByteRange& inside) {
        part.touched = true;
        if (::fallocate(part.fd.get(), FALLOC_FL_PUNCH_HOLE | FALLOC_FL_KEEP_SIZE, static_cast<off_t>(at),
                        static_cast<off_t>(inside.length)) != 0)
            fail(part.path);
    });
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
