#pragma once
// SHA-256 (FIPS 180-4), by OpenSSL.

#include <memory>
#include <string>
#include <string_view>

#include "base/bytes.hpp"

namespace undershelf {

class Sha256 {
  public:
    Sha256();
    ~Sha256();
    void add(Bytes bytes);
    /// 64 hex digits. Call once; add nothing afterwards.
    std::string hex();

  private:
    struct State;
    std::unique_ptr<State> state_;
};

/// 64 hex digits.
inline std::string sha256_of(Bytes bytes) {
    Sha256 hash;
    hash.add(bytes);
    return hash.hex();
}
inline std::string sha256_of(std::string_view text) {
    return sha256_of(Bytes(reinterpret_cast<const std::uint8_t*>(text.data()), text.size()));
}

/// Of all that is in an open file from where it is; empty where it cannot be read.
std::string sha256_of_file(int fd);

}  // namespace undershelf
