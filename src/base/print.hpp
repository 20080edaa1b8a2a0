#pragma once
// A number that tells contents apart for all practical purposes: XXH64. Never for proofs.

#define XXH_STATIC_LINKING_ONLY  // so that its state can be held by value
#include <xxhash.h>

#include <string_view>

#include "base/bytes.hpp"

namespace undershelf {

class Print {
  public:
    Print() { XXH64_reset(&state_, 0); }
    Print& add(Bytes bytes) { return add(bytes.data(), bytes.size()); }
    Print& add(std::uint8_t byte) { return add(&byte, sizeof byte); }
    /// Its eight bytes, the lowest first.
    Print& add(std::uint64_t number) {
        const boost::endian::little_uint64_buf_t bytes(number);
        return add(&bytes, sizeof bytes);
    }
    /// With its end, so that two texts are not the same as one of both.
    Print& add(std::string_view text) { return add(text.data(), text.size()).add(std::uint8_t{0}); }
    std::uint64_t value() const { return XXH64_digest(&state_); }

  private:
    Print& add(const void* bytes, std::size_t size) {
        XXH64_update(&state_, bytes, size);
        return *this;
    }
    XXH64_state_t state_;
};

}  // namespace undershelf
