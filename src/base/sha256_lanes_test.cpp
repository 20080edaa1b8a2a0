#include "base/sha256_lanes.hpp"

#include <gtest/gtest.h>

#include <random>

#include "base/sha256.hpp"

namespace undershelf {

TEST(Sha256Lanes, AgreesWithTheLibraryForEveryLength) {
    std::mt19937 random(7);
    for (const std::size_t length : {0, 1, 55, 56, 63, 64, 65, 119, 120, 128, 1000, 4096, 100'001}) {
        std::array<ByteVector, Sha256Lanes::lanes> messages;
        std::array<const std::uint8_t*, Sha256Lanes::lanes> parts{}, later{};
        for (std::size_t i = 0; i < messages.size(); ++i) {
            messages[i].resize(length + 1);
            for (auto& b : messages[i]) b = static_cast<std::uint8_t>(random());
            parts[i] = messages[i].data();
            later[i] = messages[i].data() + length / 128 * 64;
        }
        Sha256Lanes together;
        together.add(parts, length / 128 * 64);
        together.add(later, length - length / 128 * 64);
        const auto hashes = together.hex();
        for (std::size_t i = 0; i < messages.size(); ++i) {
            Sha256 alone;
            alone.add(Bytes(messages[i]).first(length));
            EXPECT_EQ(hashes[i], alone.hex()) << "message " << i << " of " << length << " bytes";
        }
    }
}

}  // namespace undershelf
