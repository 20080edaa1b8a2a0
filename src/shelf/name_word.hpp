#pragma once
// What a word of `--name` asks of a name or a path.

#include <string>
#include <string_view>

namespace undershelf {

struct NameWord {
    enum class How : int { holds, pattern, exact };
    How how{};
    bool on_path = false;  ///< asks the whole path, not the name alone
    std::string text;
};

/// A word without `*`, `?` or `/` is in a name; what has a `/` in it is asked of paths, from the root of
/// their volume; after a `=` it is the name or path itself.
NameWord name_word(std::string_view word);

/// `unknown` is the place of a character that may be any, npos for none. Both sides must be composed, or
/// folded.
bool passes(std::string_view name, NameWord::How how, std::string_view text, std::size_t unknown);

}  // namespace undershelf
