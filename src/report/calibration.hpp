#pragma once
// The measured curve of chances: what came back of files that were given them (docs/rating.md, "Is it true?";
// bench/calibration.py, once contents are checked).

#include <cstdint>

namespace undershelf {

struct CalibrationBin {
    std::uint64_t files;
    double mean;   ///< chance
    double exact;  ///< share that came back byte for byte
};
inline constexpr const char* calibration_version = "2026-12, 6382 lost files on 44 volumes by nine writers";
inline constexpr CalibrationBin calibration_bins[] = {
    {1215, 0.001, 0.000}, {3, 0.172, 0.000}, {1, 0.208, 0.000},  {14, 0.384, 0.286}, {5, 0.447, 0.200},
    {4, 0.526, 0.000},    {3, 0.659, 0.333}, {85, 0.778, 0.929}, {72, 0.829, 0.972}, {4980, 0.988, 0.999}};
/// Bins of fewer files say little.
inline constexpr std::uint64_t calibration_enough = 20;

}  // namespace undershelf
