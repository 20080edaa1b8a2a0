#include "base/sha256.hpp"

#include <gtest/gtest.h>

namespace undershelf {

TEST(Sha256, AgreesWithTheStandardsExample) {
    Sha256 hash;
    const std::uint8_t a[] = {'a'}, bc[] = {'b', 'c'};
    hash.add(a);
    hash.add(bc);
    EXPECT_EQ(hash.hex(), "ba7816bf8f01cfea414140de5dae2223b00361a396177a9cb410ff61f20015ad");
}

}  // namespace undershelf
