#include "content/memory.hpp"

#include <gtest/gtest.h>

#include <thread>

#include "content/format.hpp"
#include "content/formats.hpp"
#include "support/memory_content.hpp"

namespace undershelf::content {

namespace {
constexpr std::uint64_t half = checks_memory / 2;
}

TEST(MemoryPool, GivesUpToItsBoundAndNoMore) {
    MemoryPool pool(100);
    EXPECT_TRUE(pool.take(60, false));
    EXPECT_FALSE(pool.take(41, false));
    EXPECT_TRUE(pool.take(40, false));
    pool.give(60);
    EXPECT_TRUE(pool.take(60, true));
    EXPECT_FALSE(pool.take(101, true));
}

TEST(MemoryPool, WhoeverWaitsGetsItOnceItIsGivenBack) {
    MemoryPool pool(100);
    ASSERT_TRUE(pool.take(100, false));
    bool got = false;
    std::thread waits([&] { got = pool.take(80, true); });
    pool.give(50);
    pool.give(50);
    waits.join();
    EXPECT_TRUE(got);
    EXPECT_FALSE(pool.take(21, false));
}

TEST(MemoryClaim, IsGivenBackAtItsEnd) {
    for (int i = 0; i < 3; ++i) {
        MemoryClaim claim(half);
        claim.grow(half / 2);  // less than it has
        claim.grow(checks_memory);
        EXPECT_FALSE(memory_keeper().take(uncounted_memory, false));
    }
    EXPECT_THROW(MemoryClaim(checks_memory + 1), std::bad_alloc);
    const MemoryClaim first(half);
    EXPECT_THROW(MemoryClaim(checks_memory - half + 1), std::bad_alloc);
}

TEST(MemoryClaim, OfLittleIsNotCounted) {
    ASSERT_TRUE(memory_keeper().take(checks_memory, false));
    const MemoryClaim claim(uncounted_memory - 1);
    memory_keeper().give(checks_memory);
}

TEST(MemoryClaim, OfOneThatHasSomeDoesNotWait) {
    ASSERT_TRUE(memory_keeper().take(half, false));
    MemoryClaim claim(uncounted_memory);
    EXPECT_THROW(claim.grow(checks_memory - half + 1), MemoryBusy);
    memory_keeper().give(half);
}

TEST(MemoryClaim, WhatOthersHadIsTriedAgainWithAllOfIt) {
    ASSERT_TRUE(memory_keeper().take(half, false));
    int tries = 0;
    with_enough_memory([&] {
        ++tries;
        const MemoryClaim first(half / 2);
        if (tries == 1) {
            try {
                const MemoryClaim second(half);
            } catch (const MemoryBusy&) {
                // The others are done meanwhile.
                memory_keeper().give(half);
                throw;
            }
        }
        const MemoryClaim second(half);
        // Nobody else has any now.
        EXPECT_FALSE(memory_keeper().take(uncounted_memory, false));
    });
    EXPECT_EQ(tries, 2);
    EXPECT_TRUE(memory_keeper().take(checks_memory, false));
    memory_keeper().give(checks_memory);
}

TEST(MemoryClaim, ACheckWithinAnotherLeavesItToThatOne) {
    ASSERT_TRUE(memory_keeper().take(half, false));
    int outer = 0, inner = 0;
    with_enough_memory([&] {
        ++outer;
        const MemoryClaim first(half / 2);
        try {
            with_enough_memory([&] {
                ++inner;
                const MemoryClaim second(half);
            });
        } catch (const MemoryBusy&) {
            memory_keeper().give(half);
            throw;
        }
    });
    EXPECT_EQ(outer, 2);
    EXPECT_EQ(inner, 2);
}

TEST(MemoryClaim, OfAPictureThatSaysItIsHugeEndsItsCheck) {
    // 65,000 pixels square in three colours, in several scans: frame, then a scan of the first colour.
    const std::string bytes(
        "\xff\xd8\xff\xc2\0\x11\x08\xfd\xe8\xfd\xe8\3\1\x11\0\2\x11\0\3\x11\0"
        "\xff\xda\0\x08\1\1\0\0\0\0",
        31);
    const auto all = bytes + std::string(5000, '\x55');
    test::MemoryContent content(ByteVector(all.begin(), all.end()));
    const auto check = check_content(content);
    ASSERT_TRUE(check);
    EXPECT_EQ(check->format, "jpeg");
    EXPECT_FALSE(check->finished);
    EXPECT_EQ(check->why, "it takes more memory than a check may have");
}

TEST(UsualMemory, WhenItIsTooLittleAllIsTried) {
    int tries = 0;
    EXPECT_THROW(with_enough_memory([&] {
                     const UsualMemory memory(half);
                     ++tries;
                     UsualMemory::was_too_little();
                 }),
                 std::bad_alloc);
    EXPECT_EQ(tries, 2);
    EXPECT_TRUE(memory_keeper().take(checks_memory, false));
    memory_keeper().give(checks_memory);
}

}  // namespace undershelf::content
