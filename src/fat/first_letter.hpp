#pragma once
// Arguing the first letter that a delete took from a short name without a long one.

#include <optional>
#include <string>
#include <unordered_map>

#include "fat/directory.hpp"
#include "volume/model.hpp"

namespace undershelf::fat {

struct ArguedLetter {
    std::uint8_t letter;
    std::string why;
};

/// The first letters of a folder's names, by series: names that differ in their numbers alone.
class SeriesLetters {
  public:
    explicit SeriesLetters(const FolderBytes& folder);
    /// The letter with which all known names of this one's series begin.
    std::optional<ArguedLetter> letter_of(const DirEntry& entry) const;

  private:
    void add(const std::string& key, std::uint8_t letter);
    struct Series {
        std::uint8_t letter = 0;
        bool agree = true;
        std::uint32_t names = 0;
    };
    std::unordered_map<std::string, Series> series_;
};

/// From siblings whose names differ only in their numbers, or from a name that reads as the year it was made
/// in. `siblings` may be null.
std::optional<ArguedLetter> argue_first_letter(const ShortEntry& slots, const SeriesLetters* siblings,
                                               const Entry& entry);

}  // namespace undershelf::fat
