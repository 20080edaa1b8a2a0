#pragma once
// Contents in memory, held against the format readers.

#include <random>

#include "content/format.hpp"
#include "content/formats.hpp"
#include "support/memory_content.hpp"

namespace undershelf::test {

/// What a check of these bytes comes to; one without a format where nobody knows them.
inline Check checked(ByteVector bytes) {
    MemoryContent content(std::move(bytes));
    return check_content(content).value_or(Check());
}

/// The bytes with as much noise after them.
inline ByteVector with_behind(ByteVector bytes, std::size_t more) {
    std::mt19937 random(9);
    for (std::size_t i = 0; i < more; ++i) bytes.push_back(static_cast<std::uint8_t>(random()));
    return bytes;
}

}  // namespace undershelf::test
