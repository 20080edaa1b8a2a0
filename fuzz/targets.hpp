#pragma once
// What is fuzzed. Each target takes any bytes and must come back; the same functions replay what was found
// before, in the ordinary tests.

#include <string_view>
#include <vector>

#include "base/bytes.hpp"

namespace undershelf::fuzz {

struct Target {
    std::string_view name;
    void (*run)(Bytes input);
};

const std::vector<Target>& targets();

}  // namespace undershelf::fuzz
