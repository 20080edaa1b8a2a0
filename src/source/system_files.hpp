#pragma once
// Reading what the system says in small files.

#include <cstdint>
#include <filesystem>
#include <optional>
#include <string>

#include "source/health.hpp"

namespace undershelf {

/// The first line of a small file, blanks around it taken off; empty when the file does not exist.
std::string line_of(const std::filesystem::path& file);
/// Decimal, or hexadecimal after 0x.
std::optional<std::uint64_t> number_of(const std::string& text);
/// The folder in sysfs of the whole disk that a device (`8:17`), or one of its partitions, belongs to.
std::optional<std::filesystem::path> disk_folder(const std::string& number, const SystemPlaces& places);

}  // namespace undershelf
