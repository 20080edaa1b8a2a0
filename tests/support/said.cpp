#include "support/said.hpp"

#include <fmt/format.h>
#include <gtest/gtest.h>

#include <cstdlib>
#include <filesystem>
#include <fstream>
#include <sstream>

#include "support/packed_file.hpp"
#include "support/temporary_folder.hpp"

namespace undershelf::test {

namespace {

std::string stored(const std::string& name) {
    return UNDERSHELF_VOLUMES_DIR "/" + name;
}

std::string first_differences(const std::string& before, const std::string& now) {
    constexpr int most = 5;
    std::istringstream a(before), b(now);
    std::string x, y, out;
    for (int line = 1, shown = 0; shown < most; ++line) {
        const bool more_a = static_cast<bool>(std::getline(a, x));
        const bool more_b = static_cast<bool>(std::getline(b, y));
        if (!more_a && !more_b) break;
        if (!more_a) x = "(end)";
        if (!more_b) y = "(end)";
        if (x == y) continue;
        out += fmt::format("line {}\n  before: {}\n  now:    {}\n", line, x, y);
        ++shown;
    }
    return out;
}

}  // namespace

void expect_said(const std::string& name, const std::string& now) {
    const auto file = stored(name + ".said");
    if (std::getenv("UNDERSHELF_SAY_ANEW")) std::ofstream(file) << now;
    ASSERT_TRUE(std::filesystem::exists(file));
    const auto before = read_file(file);
    EXPECT_TRUE(before == now) << name << ".said\n" << first_differences(before, now);
}

std::string made_volume(const std::string& name) {
    return unpacked_file(stored(name + ".img.gz"));
}

}  // namespace undershelf::test
