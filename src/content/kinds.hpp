#pragma once
// Kinds of files as technicians sort them, told by extension.

#include <cstdint>
#include <optional>
#include <string_view>

namespace undershelf {

enum class Kind : std::uint8_t {
    other,
    picture,
    video,
    audio,
    document,
    mail,
    archive,
    database,
    program,
    text
};

std::string_view word(Kind kind);
std::optional<Kind> kind_from_word(std::string_view word);
/// `ext` in lower case, without its dot.
Kind kind_of_extension(std::string_view ext);

}  // namespace undershelf
