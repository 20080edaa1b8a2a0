#pragma once
// CRC-32 as GPT, zip and PNG use it (ISO 3309, reflected 0x04C11DB7), by zlib.

#include <cstdint>

#include "base/bytes.hpp"

namespace undershelf {

std::uint32_t crc32_of(Bytes bytes, std::uint32_t before = 0);

}  // namespace undershelf
