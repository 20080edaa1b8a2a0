#include "capture/earlier.hpp"

#include <fmt/format.h>

#include <filesystem>

#include "base/error.hpp"
#include "base/printable.hpp"
#include "base/sha256.hpp"
#include "capture/capture.hpp"
#include "source/health.hpp"

namespace fs = std::filesystem;

namespace undershelf {

namespace {

/// Bytes of the source, read once; nothing where they cannot be read.
std::optional<ByteVector> read_source(const ByteDevice& device, const ByteRange& range) {
    const auto whole = whole_sectors(range, device.sector_size(), device.size());
    const ReadBuffer buffer;
    if (!whole || whole->length > buffer.bytes().size()) return std::nullopt;
    const auto into = buffer.bytes().first(static_cast<std::size_t>(whole->length));
    if (device.read_some(whole->offset, into) != into.size()) return std::nullopt;
    const auto part = into.subspan(static_cast<std::size_t>(range.offset - whole->offset),
                                   static_cast<std::size_t>(range.length));
    return ByteVector(part.begin(), part.end());
}

}  // namespace

std::string coverage_path_of(const CaptureOptions& options) {
    return options.coverage_path.empty() ? coverage_path_of(options.image_path) : options.coverage_path;
}

EarlierCapture::EarlierCapture(const CaptureOptions& options, const ByteDevice& device)
    : record_(device.size()) {
    std::error_code ec;
    const auto path = coverage_path_of(options);
    const auto serial = drive_serial(options.source_path);
    was_there_ = fs::exists(fs::symlink_status(path, ec));
    if (!was_there_) {
        record_.source = without_controls(fs::absolute(options.source_path).lexically_normal().string());
        record_.sector_size = device.sector_size();
        record_.serial = without_controls(serial);
        record_.part_size = options.part_size;
        return;
    }
    record_ = read_coverage_file(path);
    check_same_drive(options, device, serial);
    if (image_files() != There::must) return;
    for (const auto& name : names(options)) {
        if (!fs::exists(name, ec))
            throw Error(
                Trouble::input,
                fmt::format("{} is about an image that is not there: {} is missing. Bring it back, or "
                            "move the coverage file away to begin anew.",
                            path, name));
    }
}

There EarlierCapture::image_files() const {
    if (!was_there_) return There::must_not;
    return holds_nothing(record_.coverage) ? There::may : There::must;
}

void EarlierCapture::check_same_drive(const CaptureOptions& options, const ByteDevice& device,
                                      const std::string& serial) const {
    const auto refuse = [&](const std::string& why) {
        throw Error(
            Trouble::refused,
            fmt::format("{} holds a copy of another source than {}: {}. Give this one an image of its "
                        "own.",
                        options.image_path, options.source_path, why));
    };
    if (device.size() != record_.coverage.size())
        refuse(fmt::format("that one has {} bytes, and this one {}", record_.coverage.size(), device.size()));
    if (!serial.empty() && !record_.serial.empty() && without_controls(serial) != record_.serial)
        refuse(fmt::format("that one has the serial number {}, and this one {}", record_.serial,
                           without_controls(serial)));
    if (options.part_size && options.part_size != record_.part_size)
        throw Error(Trouble::usage,
                    fmt::format("{} was begun {}; go on without another --split.", options.image_path,
                                record_.part_size ? fmt::format("in parts of {} bytes", record_.part_size)
                                                  : "as one file"));
}

std::vector<std::string> EarlierCapture::names(const CaptureOptions& options) const {
    return ImageFile::names(options.image_path, record_.coverage.size(), record_.part_size);
}

void EarlierCapture::check(const CaptureOptions& options, const ImageFile& image,
                           const ByteDevice& device) const {
    if (!was_there_) return;
    check_samples(options, image, device);
    if (record_.samples.empty() && !image.reads_as_zeros()) compare(options, image, device);
}

void EarlierCapture::check_samples(const CaptureOptions& options, const ImageFile& image,
                                   const ByteDevice& device) const {
    for (const auto& sample : record_.samples) {
        if (!record_.coverage.holds(sample.range) || sample.range.end() > image.was_long()) continue;
        ByteVector bytes(static_cast<std::size_t>(sample.range.length));
        if (image.read(sample.range.offset, bytes) && sha256_of(bytes) != sample.sha256)
            throw Error(
                Trouble::refused,
                fmt::format("{} was replaced or changed since it was copied: its bytes at offset {} are "
                            "others than {} says. Nothing was written. Bring the right image back, or "
                            "move both away to begin anew.",
                            options.image_path, sample.range.offset, coverage_path_of(options)));
        const auto read = read_source(device, sample.range);
        if (read && sha256_of(*read) != sample.sha256)
            throw Error(
                Trouble::refused,
                fmt::format("{} holds a copy of another source than {}: their bytes at offset {} differ. "
                            "Give this one an image of its own.",
                            options.image_path, options.source_path, sample.range.offset));
    }
}

/// A capture that was cut off in its first moments has data in its image, and no sample of it yet.
void EarlierCapture::compare(const CaptureOptions& options, const ImageFile& image,
                             const ByteDevice& device) const {
    constexpr std::size_t most_places = 32;
    constexpr std::uint64_t place = 4096;
    std::size_t same = 0;
    const auto places = image.places_with_data(most_places, place);
    for (const auto& range : places) {
        ByteVector bytes(static_cast<std::size_t>(range.length));
        const auto read = read_source(device, range);
        if (!read || !image.read(range.offset, bytes)) continue;
        if (*read != bytes) {
            same = 0;
            break;
        }
        ++same;
    }
    if (same == 0)
        throw Error(
            Trouble::refused,
            fmt::format("{} has data, and nothing says that it is a copy of {}: {} has no samples of it. "
                        "It is not written over. Move both away to begin anew, or give the image another "
                        "name.",
                        options.image_path, options.source_path, coverage_path_of(options)));
}

}  // namespace undershelf
