#pragma once
// The one table of the formats that are known: what lists call them, how they begin, which extensions promise
// them, and how far they can be checked.

#include <optional>
#include <span>

#include "content/format.hpp"
#include "content/kinds.hpp"

namespace undershelf {

/// Bytes that all files of a format begin with.
struct Start {
    std::size_t at = 0;
    std::string_view magic;
    std::size_t more_at = 0;
    std::string_view more = {};
};

struct Format {
    std::string_view word;  ///< as lists name it: `jpeg`, `docx`
    std::string_view name;  ///< in a sentence: `JPEG picture`
    Kind kind{};
    std::string_view extensions;  ///< those that promise it, the usual one first, with spaces around each
    /// Formats of one family begin alike: what is inside tells them apart.
    std::string_view family;
    Strength strength = Strength::none;  ///< the most that a check of it says
    /// Bytes: how far behind the first wrong byte a check may say that it holds. 0 where it says so earlier.
    std::uint64_t delay = 0;
    std::span<const Start> starts = {};  ///< of formats without a reader
};

std::span<const Format> formats();
const Format* format_named(std::string_view word);

/// The format that a content begins like; null when none is sure enough. Of a family, the one that the start
/// shows. `least` is how sure that must be.
constexpr double sure_enough = 0.8;
const Format* format_of_start(Bytes first, double least = sure_enough);
/// The same, with how sure that is; null and 0 for nothing known.
struct StartSeen {
    const Format* format = nullptr;
    double sure = 0;
};
StartSeen start_seen(Bytes first);
/// Does a content begin like this format, or another of its family?
bool begins_like(const Format& format, Bytes first);
/// Is all of such a content characters?
bool is_text(const Format& format);
/// At the end of an extension that may be longer than is known of it: of `doc` so marked docx and docm are as
/// good. A capital, since extensions of names are folded: no name can say so of itself.
constexpr char any_longer = 'L';
/// The same, where it would be odd: nothing speaks for a longer one, but it contradicts nothing.
constexpr char maybe_longer = 'M';
/// An extension without these marks.
std::string_view written_extension(std::string_view ext);
/// Is it among the words of a list with spaces around each? Of one with `any_longer`, any that it may be.
bool lists_extension(std::string_view list, std::string_view ext);
/// Does the extension (lower case, no dot) promise the format?
bool promises(std::string_view ext, const Format& format);

}  // namespace undershelf
