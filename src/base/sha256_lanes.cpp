#include "base/sha256_lanes.hpp"

#include <fmt/format.h>

#include <boost/endian/conversion.hpp>
#include <cstring>

// Vectors are passed between functions only where these become one, so no calling convention is concerned.
#pragma GCC diagnostic ignored "-Wpsabi"

namespace undershelf {

namespace {

constexpr std::size_t block_size = 64;

/// One word of each message. The compilers' vectors, so that no instruction set is named but where one is
/// chosen.
using Vector = std::uint32_t __attribute__((vector_size(4 * Sha256Lanes::lanes)));
using Parts = std::array<const std::uint8_t*, Sha256Lanes::lanes>;

/// Section 5.3.3.
constexpr std::array<std::uint32_t, 8> start{0x6a09e667, 0xbb67ae85, 0x3c6ef372, 0xa54ff53a,
                                             0x510e527f, 0x9b05688c, 0x1f83d9ab, 0x5be0cd19};
/// Section 4.2.2.
constexpr std::array<std::uint32_t, 64> K{
    0x428a2f98, 0x71374491, 0xb5c0fbcf, 0xe9b5dba5, 0x3956c25b, 0x59f111f1, 0x923f82a4, 0xab1c5ed5,
    0xd807aa98, 0x12835b01, 0x243185be, 0x550c7dc3, 0x72be5d74, 0x80deb1fe, 0x9bdc06a7, 0xc19bf174,
    0xe49b69c1, 0xefbe4786, 0x0fc19dc6, 0x240ca1cc, 0x2de92c6f, 0x4a7484aa, 0x5cb0a9dc, 0x76f988da,
    0x983e5152, 0xa831c66d, 0xb00327c8, 0xbf597fc7, 0xc6e00bf3, 0xd5a79147, 0x06ca6351, 0x14292967,
    0x27b70a85, 0x2e1b2138, 0x4d2c6dfc, 0x53380d13, 0x650a7354, 0x766a0abb, 0x81c2c92e, 0x92722c85,
    0xa2bfe8a1, 0xa81a664b, 0xc24b8b70, 0xc76c51a3, 0xd192e819, 0xd6990624, 0xf40e3585, 0x106aa070,
    0x19a4c116, 0x1e376c08, 0x2748774c, 0x34b0bcb5, 0x391c0cb3, 0x4ed8aa4a, 0x5b9cca4f, 0x682e6ff3,
    0x748f82ee, 0x78a5636f, 0x84c87814, 0x8cc70208, 0x90befffa, 0xa4506ceb, 0xbef9a3f7, 0xc67178f2};

/// The hash computation (section 6.2.2), over `blocks` blocks of every message.
__attribute__((always_inline)) inline void rounds(Vector* s, const Parts& parts, std::size_t blocks) {
    const auto rotated = [](const Vector& x, int n) __attribute__((always_inline)) {
        return (x >> n) | (x << (32 - n));
    };
    for (std::size_t block = 0; block < blocks; ++block) {
        Vector w[16];
        for (std::size_t t = 0; t < 16; ++t) {
            for (std::size_t lane = 0; lane < Sha256Lanes::lanes; ++lane) {
                std::uint32_t word;
                std::memcpy(&word, parts[lane] + block * block_size + 4 * t, sizeof word);
                w[t][lane] = boost::endian::big_to_native(word);
            }
        }
        Vector a = s[0], b = s[1], c = s[2], d = s[3], e = s[4], f = s[5], g = s[6], h = s[7];
#pragma GCC unroll 16
        for (std::size_t t = 0; t < 64; ++t) {
            if (t >= 16) {
                const Vector near = w[(t + 14) % 16], far = w[(t + 1) % 16];
                w[t % 16] += (rotated(far, 7) ^ rotated(far, 18) ^ (far >> 3)) + w[(t + 9) % 16] +
                             (rotated(near, 17) ^ rotated(near, 19) ^ (near >> 10));
            }
            const Vector t1 = h + (rotated(e, 6) ^ rotated(e, 11) ^ rotated(e, 25)) + (g ^ (e & (f ^ g))) +
                              K[t] + w[t % 16];
            const Vector t2 = (rotated(a, 2) ^ rotated(a, 13) ^ rotated(a, 22)) + ((a & b) | (c & (a | b)));
            h = g, g = f, f = e, e = d + t1, d = c, c = b, b = a, a = t1 + t2;
        }
        s[0] += a, s[1] += b, s[2] += c, s[3] += d, s[4] += e, s[5] += f, s[6] += g, s[7] += h;
    }
}

using Rounds = void (*)(Vector*, const Parts&, std::size_t);

void plain_rounds(Vector* s, const Parts& parts, std::size_t blocks) {
    rounds(s, parts, blocks);
}

#if defined(__x86_64__)
__attribute__((target("avx2"))) void avx2_rounds(Vector* s, const Parts& parts, std::size_t blocks) {
    rounds(s, parts, blocks);
}
__attribute__((target("avx512f,avx512vl"))) void avx512_rounds(Vector* s, const Parts& parts,
                                                               std::size_t blocks) {
    rounds(s, parts, blocks);
}
Rounds best_rounds() {
    if (__builtin_cpu_supports("avx512f") && __builtin_cpu_supports("avx512vl")) return avx512_rounds;
    return __builtin_cpu_supports("avx2") ? avx2_rounds : plain_rounds;
}
#else
Rounds best_rounds() {
    return plain_rounds;
}
#endif

}  // namespace

Sha256Lanes::Sha256Lanes() {
    for (std::size_t i = 0; i < start.size(); ++i) state_[i].fill(start[i]);
}

void Sha256Lanes::compress(const Parts& parts, std::size_t blocks) {
    static const Rounds compute = best_rounds();
    static_assert(sizeof(Vector) == sizeof(Words));
    Vector s[8];
    std::memcpy(s, state_.data(), sizeof s);
    compute(s, parts, blocks);
    std::memcpy(state_.data(), s, sizeof s);
}

void Sha256Lanes::add(const Parts& parts, std::size_t length) {
    compress(parts, length / block_size);
    length_ += length;
    const auto done = length / block_size * block_size;
    for (std::size_t lane = 0; lane < lanes; ++lane)
        std::memcpy(rest_[lane].data(), parts[lane] + done, length - done);
}

std::array<std::string, Sha256Lanes::lanes> Sha256Lanes::hex() {
    // Padding (section 5.1.1): a one bit, zeros, and the length in bits.
    const auto rest = static_cast<std::size_t>(length_ % block_size);
    const std::size_t blocks = rest + 9 > block_size ? 2 : 1;
    std::array<std::array<std::uint8_t, 2 * block_size>, lanes> ends{};
    Parts parts;
    for (std::size_t lane = 0; lane < lanes; ++lane) {
        std::memcpy(ends[lane].data(), rest_[lane].data(), rest);
        ends[lane][rest] = 0x80;
        const auto bits = boost::endian::native_to_big(std::uint64_t{length_ * 8});
        std::memcpy(ends[lane].data() + blocks * block_size - sizeof bits, &bits, sizeof bits);
        parts[lane] = ends[lane].data();
    }
    compress(parts, blocks);
    std::array<std::string, lanes> out;
    for (std::size_t lane = 0; lane < lanes; ++lane) {
        for (const auto& words : state_) out[lane] += fmt::format("{:08x}", words[lane]);
    }
    return out;
}

}  // namespace undershelf
