#pragma once
// What a drive says of its own health, through smartmontools where that is installed.

#include <chrono>
#include <cstdint>
#include <optional>
#include <string>
#include <vector>

namespace undershelf {

struct SmartHealth {
    std::optional<bool> passed;                       ///< the drive's own verdict
    std::optional<std::uint64_t> moved_sectors;       ///< bad ones that others have taken the place of
    std::optional<std::uint64_t> waiting_sectors;     ///< that could not be read, and may be moved
    std::optional<std::uint64_t> unreadable_sectors;  ///< that an own test of the drive could not read
    std::optional<std::uint64_t> media_errors;        ///< NVMe: contents that could not be read as they were
    std::optional<std::uint64_t> worn_percent;        ///< NVMe: of what its maker says it endures
    std::optional<std::int64_t> celsius;
    std::optional<std::uint64_t> hours;  ///< switched on
};

/// Takes the JSON of `smartctl --json`; nothing where it says nothing of a drive's health.
std::optional<SmartHealth> read_smart(const std::string& json);

/// Asks the drive. `trouble` says why there is nothing.
struct SmartAnswer {
    std::optional<SmartHealth> health;
    std::string trouble;
};
SmartAnswer ask_smart(const std::string& path, std::chrono::milliseconds most = std::chrono::seconds(5));

/// Sentences, what matters most first.
std::vector<std::string> in_words(const SmartHealth& health);

}  // namespace undershelf
