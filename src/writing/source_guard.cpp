#include "writing/source_guard.hpp"

#include <fmt/format.h>

#include "base/error.hpp"
#include "source/byte_device.hpp"

namespace undershelf {

SourceGuard::SourceGuard(const std::string& source_path, SystemPlaces places)
    : source_path_(source_path), places_(std::move(places)) {
    for (const auto& file : files_of(source_path)) {
        const auto read = storage_read(file, places_);
        source_.content.insert(source_.content.end(), read.content.begin(), read.content.end());
        source_.perhaps.insert(source_.perhaps.end(), read.perhaps.begin(), read.perhaps.end());
    }
}

void SourceGuard::refuse(const std::string& destination) const {
    if (source_.content.empty()) return;
    const auto written = storage_written(destination, places_);
    if (meet(written.itself, source_.content) || meet(written.itself, source_.perhaps))
        throw Error(
            Trouble::refused,
            fmt::format("{} is the source {} itself, or what it is made from. Nothing is ever written "
                        "there. Give another place.",
                        destination, source_path_));
    if (meet(written.below, source_.content))
        throw Error(Trouble::refused,
                    fmt::format("{} is on a file system that is mounted from the source {}. Writing there "
                                "would change the source. Give a place on another drive.",
                                destination, source_path_));
}

}  // namespace undershelf
