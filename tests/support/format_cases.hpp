#pragma once
// A file of each format, some in several forms, and what a check must come to on them.

#include <functional>
#include <string>
#include <vector>

#include "content/format.hpp"
#include "support/memory_content.hpp"

namespace undershelf::test {

struct FormatCase {
    std::string format;
    std::function<ByteVector()> make;
    Strength strength = Strength::strong;
    /// Of single wrong bytes, at least this share must be noticed: some fields no checksum covers.
    double noticed = 0.97;
    std::size_t padding = 0;  ///< zeros after its end mark, which are nobody's loss
};

const std::vector<FormatCase>& format_cases();

}  // namespace undershelf::test
