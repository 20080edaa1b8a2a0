#pragma once
// Codecs of packed pieces.

#include <optional>

#include "volume/model.hpp"

namespace undershelf {

/// The `length` bytes that `input` unpacks to, or nothing when it is damaged. Output shorter than `length` is
/// filled up with zeros, as drivers do.
std::optional<ByteVector> decode(Codec codec, Bytes input, std::size_t length);

}  // namespace undershelf
