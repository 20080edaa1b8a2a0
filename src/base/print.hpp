#pragma once
// A number that tells contents apart for all practical purposes: FNV-1a over 64 bits. Never for proofs.

#include <string_view>

#include "base/bytes.hpp"

namespace undershelf {

class Print {
  public:
    Print& add(std::uint8_t byte) {
        value_ = (value_ ^ byte) * 0x100000001B3ull;
        return *this;
    }
    Print& add(Bytes bytes) {
        for (const auto b : bytes) add(b);
        return *this;
    }
    /// Its eight bytes, the lowest first.
    Print& add(std::uint64_t number) {
        for (int shift = 0; shift < 64; shift += 8) add(static_cast<std::uint8_t>(number >> shift));
        return *this;
    }
    /// With its end, so that two texts are not the same as one of both.
    Print& add(std::string_view text) {
        for (const auto c : text) add(static_cast<std::uint8_t>(c));
        return add(std::uint8_t{0});
    }
    std::uint64_t value() const { return value_; }

  private:
    std::uint64_t value_ = 0xCBF29CE484222325ull;
};

}  // namespace undershelf
