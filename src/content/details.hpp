#pragma once
// What contents tell of themselves, for people who look for one of many.

#include <cstdint>
#include <optional>
#include <string>

namespace undershelf {

struct ContentDetails {
    std::string pixels;             ///< `4000x3000`: columns and rows; empty for nothing known
    std::optional<double> seconds;  ///< that it plays
    std::optional<std::uint32_t> pages;
    std::string camera;  ///< maker and model, or the model alone

    bool empty() const { return pixels.empty() && !seconds && !pages && camera.empty(); }
    bool operator==(const ContentDetails&) const = default;
};

}  // namespace undershelf
