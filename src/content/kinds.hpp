#pragma once
// Kinds of files as technicians sort them, told by extension.

#include <cstdint>
#include <optional>
#include <string_view>

namespace undershelf {

/// The numbers go into shelves.
enum class Kind : std::uint8_t {
    other = 0,
    picture = 1,
    video = 2,
    audio = 3,
    document = 4,
    mail = 5,
    archive = 6,
    database = 7,
    program = 8,
    text = 9,
    link = 10  ///< to another file or folder
};

std::string_view word(Kind kind);
std::optional<Kind> kind_from_word(std::string_view word);
/// `ext` in lower case, without its dot.
Kind kind_of_extension(std::string_view ext);

}  // namespace undershelf
