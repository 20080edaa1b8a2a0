#pragma once
// Arguing the first letter that a delete took from a short name without a long one.

#include <optional>
#include <string>

#include "fat/directory.hpp"
#include "volume/model.hpp"

namespace undershelf::fat {

struct ArguedLetter {
    std::uint8_t letter;
    std::string why;
};

/// From siblings whose names differ only in their numbers, or from a name that reads as the year it was made
/// in. `siblings` may be null.
std::optional<ArguedLetter> argue_first_letter(const Slots& slots, const Listing* siblings,
                                               const Entry& entry);

}  // namespace undershelf::fat
