#include "base/crc32.hpp"

#include <zlib.h>

namespace undershelf {

std::uint32_t crc32_of(Bytes bytes, std::uint32_t before) {
    return static_cast<std::uint32_t>(crc32_z(before, bytes.data(), bytes.size()));
}

}  // namespace undershelf
