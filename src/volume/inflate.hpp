#pragma once
// Unpacking of deflated data by our own code: it is part of file systems that pack files, and reads what is
// on a drive in the program itself.

#include <optional>

#include "base/bytes.hpp"

namespace undershelf {

/// What a zlib stream (RFC 1950) of deflated data (RFC 1951) unpacks to, where that is `length` bytes and
/// their Adler-32 is right. What is after the stream does not count.
std::optional<ByteVector> inflate_zlib(Bytes packed, std::size_t length);

}  // namespace undershelf
