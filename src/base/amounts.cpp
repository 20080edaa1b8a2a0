#include "base/amounts.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "base/text.hpp"

namespace undershelf {

std::string share_in_words(double share) {
    return share >= 1 ? "all" : fmt::format("{:.0f} %", std::floor(100 * std::max(share, 0.0)));
}

std::string human_time(double seconds) {
    // Nobody waits longer than this: thirty years.
    const auto s = static_cast<std::uint64_t>(std::clamp(seconds, 0.0, 1e9) + 0.5);
    if (s < 90) return fmt::format("{} s", s);
    if (s < 90 * 60) return fmt::format("{} min", (s + 30) / 60);
    return fmt::format("{} h {} min", s / 3600, s % 3600 / 60);
}

std::string human_size(std::uint64_t bytes) {
    if (bytes < 1024) return fmt::format("{} B", bytes);
    static constexpr const char* units[] = {"KiB", "MiB", "GiB", "TiB", "PiB", "EiB"};
    double value = static_cast<double>(bytes) / 1024;
    std::size_t unit = 0;
    while (value >= 1023.95 && unit < 5) {
        value /= 1024;
        ++unit;
    }
    return fmt::format("{:.1f} {}", value, units[unit]);
}

std::string counted(std::uint64_t n, std::string_view singular, std::string_view plural) {
    return fmt::format("{} {}", grouped(n), n == 1 ? singular : plural);
}

}  // namespace undershelf
