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

EarlierCapture::EarlierCapture(const CaptureOptions& options, const ByteDevice& device)
    : path_(options.coverage_path.empty() ? coverage_path_of(options.image_path) : options.coverage_path),
      record_(device.size()) {
    std::error_code ec;
    const auto serial = drive_serial(options.source_path);
    if (!fs::exists(path_, ec)) {
        record_.source = without_controls(fs::absolute(options.source_path).lexically_normal().string());
        record_.sector_size = device.sector_size();
        record_.serial = without_controls(serial);
        record_.part_size = options.part_size;
        return;
    }
    record_ = read_coverage_file(path_);
    check_same_drive(options, device, serial);
    check_samples(options, device);
    fresh_ = record_.coverage.bytes(CoverageState::waiting) == record_.coverage.size();
    for (const auto& name : names(options)) {
        if (fs::exists(name, ec)) {
            fresh_ = false;
        } else if (!fresh_) {
            throw Error(
                Trouble::input,
                fmt::format("{} tells of an image that is not there: {} is missing. Bring it back, or "
                            "move the coverage file away to begin anew.",
                            path_, name));
        }
    }
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

/// The bytes of both are compared where the image has them and the source still reads.
void EarlierCapture::check_samples(const CaptureOptions& options, const ByteDevice& device) const {
    for (const auto& sample : record_.samples) {
        if (!record_.coverage.holds(sample.range)) continue;
        const auto whole = whole_sectors(sample.range, device.sector_size(), device.size());
        const ReadBuffer buffer;
        const auto into = buffer.bytes().first(static_cast<std::size_t>(whole->length));
        if (device.read_some(whole->offset, into) != into.size()) continue;
        Sha256 hash;
        hash.add(into.subspan(static_cast<std::size_t>(sample.range.offset - whole->offset),
                              static_cast<std::size_t>(sample.range.length)));
        if (hash.hex() != sample.sha256)
            throw Error(
                Trouble::refused,
                fmt::format("{} holds a copy of another source than {}: their bytes at offset {} differ. "
                            "Give this one an image of its own.",
                            options.image_path, options.source_path, sample.range.offset));
    }
}

}  // namespace undershelf
