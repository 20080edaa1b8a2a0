#include "base/sha256.hpp"

#include <openssl/evp.h>
#include <unistd.h>

#include <cerrno>
#include <new>

namespace undershelf {

struct Sha256::State {
    EVP_MD_CTX* context = EVP_MD_CTX_new();
    ~State() { EVP_MD_CTX_free(context); }
};

Sha256::Sha256() : state_(std::make_unique<State>()) {
    if (!state_->context || EVP_DigestInit_ex(state_->context, EVP_sha256(), nullptr) != 1)
        throw std::bad_alloc();
}
Sha256::~Sha256() = default;

void Sha256::add(Bytes bytes) {
    EVP_DigestUpdate(state_->context, bytes.data(), bytes.size());
}

std::string Sha256::hex() {
    std::uint8_t digest[EVP_MAX_MD_SIZE];
    unsigned length = 0;
    EVP_DigestFinal_ex(state_->context, digest, &length);
    static constexpr char digits[] = "0123456789abcdef";
    std::string out;
    for (unsigned i = 0; i < length; ++i) {
        out += digits[digest[i] >> 4];
        out += digits[digest[i] & 15];
    }
    return out;
}

std::string sha256_of_file(int fd) {
    Sha256 hash;
    ByteVector buffer(1 << 20);
    for (;;) {
        const auto n = ::read(fd, buffer.data(), buffer.size());
        if (n < 0 && errno == EINTR) continue;
        if (n < 0) return {};
        if (n == 0) return hash.hex();
        hash.add(Bytes(buffer).first(static_cast<std::size_t>(n)));
    }
}

}  // namespace undershelf
