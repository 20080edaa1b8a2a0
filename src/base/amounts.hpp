#pragma once
// Amounts as people read them.

#include <cstdint>
#include <string>
#include <string_view>

namespace undershelf {

/// `1.4 MiB`; exact bytes below 1 KiB.
std::string human_size(std::uint64_t bytes);
/// `all`, `75 %`, of a share from 0 to 1; never rounded up to all.
std::string share_in_words(double share);
/// `40 s`, `12 min`, `3 h 20 min`.
std::string human_time(double seconds);
/// `1 file`, `2 files`, `12,345 files`.
std::string counted(std::uint64_t n, std::string_view singular, std::string_view plural);

}  // namespace undershelf
