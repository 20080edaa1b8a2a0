// What fuzzing found once is replayed for ever, and a few changes at random are tried each time.

#include <gtest/gtest.h>

#include <filesystem>
#include <random>

#include "support/temporary_folder.hpp"
#include "targets.hpp"

namespace undershelf::fuzz {

TEST(Fuzz, ReplaysWhatWasFound) {
    for (const auto& target : targets()) {
        const auto folder = std::filesystem::path(UNDERSHELF_FUZZ_DIR) / "regressions" / target.name;
        if (!std::filesystem::exists(folder)) continue;
        for (const auto& file : std::filesystem::directory_iterator(folder)) {
            SCOPED_TRACE(file.path().string());
            const auto input = test::read_file(file.path().string());
            target.run({reinterpret_cast<const std::uint8_t*>(input.data()), input.size()});
        }
    }
}

TEST(Fuzz, SurvivesChangesAtRandom) {
    std::mt19937 random(2026);
    for (const auto& target : targets()) {
        SCOPED_TRACE(target.name);
        target.run({});
        for (int i = 0; i < 60; ++i) {
            ByteVector input(random() % 120);
            for (auto& byte : input) byte = static_cast<std::uint8_t>(random());
            target.run(input);
        }
    }
}

}  // namespace undershelf::fuzz
