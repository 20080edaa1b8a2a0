#pragma once
// Names and Unicode. Names come as UTF-16 or as bytes of a code page; everything above the file systems sees
// UTF-8 in normalisation form C (Unicode Standard Annex 15).

#include <memory>
#include <optional>
#include <string>
#include <string_view>

#include "base/bytes.hpp"

namespace undershelf {

/// UTF-8, NFC. A surrogate without its partner becomes U+FFFD.
std::string utf8_from_utf16(std::u16string_view units);
/// Units as they are on disk, little-endian; an odd last byte is left out.
std::u16string utf16_units(Bytes bytes);
/// Bytes in a character set by its registered name (IANA, Character Sets); nothing for a name nobody knows.
std::optional<std::string> utf8_from_charset(Bytes bytes, const std::string& name);
/// The character set that bytes, not UTF-8, are most likely in, by how often which of them are in it; empty
/// where nothing tells.
std::string likely_charset(Bytes bytes);
/// One character; empty for a number that stands for none.
std::string utf8_character(std::uint32_t c);
/// `text` composed (NFC); malformed UTF-8 becomes U+FFFD.
std::string composed(std::string_view text);
/// For comparing without case: full case folding of the composed text.
std::string folded(std::string_view text);
/// For finding words: without case, accents and other marks; compatible characters as one (UAX 15, NFKD).
std::string searchable(std::string_view text);
/// Shell pattern with `*`, `?` and `[a-z]` against the whole of `text`, character by character. Case counts:
/// fold both sides first where it should not. The character of `text` that starts at byte `unknown` is
/// for any one: whatever the pattern has there fits.
bool matches_glob(std::string_view text, std::string_view pattern,
                  std::size_t unknown = std::string_view::npos);
/// `1,234,567`.
std::string grouped(std::uint64_t n);
/// Is `word` one of the words of `list`, each of which has spaces around it?
bool lists_word(std::string_view list, std::string_view word);
/// What is after the last dot of a name, folded; empty without one or when it is the whole name.
std::string extension_of(std::string_view name);
/// Is it a short alias of a longer name, such as `PROGRA~1.HTM` (`~`, up to six digits, at most eight
/// characters before the dot and three after it)?
bool is_alias(std::string_view name);
/// Is it a name as those have that know no others: capitals, digits and signs, at most eight and three?
bool is_short_name(std::string_view name);

/// One OEM code page (for example `437`), for names kept as bytes.
class CodePage {
  public:
    /// Throws Error(usage) for a page nobody knows.
    explicit CodePage(const std::string& number);
    ~CodePage();
    CodePage(CodePage&&) noexcept;
    CodePage& operator=(CodePage&&) noexcept;

    std::string utf8(Bytes bytes) const;

  private:
    struct Converter;
    std::unique_ptr<Converter> converter_;
};

}  // namespace undershelf
