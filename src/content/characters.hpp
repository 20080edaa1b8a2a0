#pragma once
// Plain characters: which encoding a text begins in, and up to where it stays a text in it. Texts have no
// structure to hold them to: what they never contain tells where other data begin.

#include <bitset>
#include <optional>

#include "base/bytes.hpp"

namespace undershelf {

enum class Encoding : std::uint8_t {
    utf8,      ///< ASCII among it
    utf16_le,  ///< Unicode Standard, 3.10
    utf16_be,
    eight_bit,  ///< a code page of one or more bytes a character, unknown which
};

/// The encoding that a text beginning so is in; nothing for what is no text. `first` is a content's first
/// bytes, some thousands at best.
std::optional<Encoding> encoding_of(Bytes first);

/// Goes through a text and finds where it turns into something else: controls and malformed characters that
/// are close together, since a few stray ones are in many a text.
class TextScan {
  public:
    explicit TextScan(Encoding encoding, std::uint64_t at = 0) : encoding_(encoding), at_(at) {}
    /// Goes on over bytes. False once it is no text any more.
    bool take(Bytes part);
    /// The first byte that is no text's.
    std::optional<std::uint64_t> broken_at() const { return broken_at_; }
    /// Bytes from there on are zeros, as far as was seen.
    bool turns_into_zeros() const { return broken_at_ && zeros_; }

  private:
    bool take_bytes(Bytes part);
    bool take_units(Bytes part);
    void byte(std::uint8_t b);
    void unit(char16_t c);
    void close_stretch();
    void stray(bool zero);
    void malformed();

    Encoding encoding_;
    std::uint64_t at_;
    std::optional<std::uint64_t> broken_at_;
    bool zeros_ = false;
    // The last stray characters.
    std::uint64_t strays_[2] = {~0ull, ~0ull};
    std::uint8_t last_ = 0;
    std::uint64_t alike_ = 0;  ///< bytes that are the same one, no ASCII, without another between
    bool stray_zeros_[2] = {false, false};
    // Of a stretch of 256 bytes: what is malformed, or of another script than all before.
    std::uint64_t stretch_at_ = 0, odd_at_ = 0;
    unsigned odd_ = 0, stretches_ = 0;
    std::bitset<256> scripts_, new_scripts_;  ///< high bytes of characters
    unsigned follow_ = 0;                     ///< bytes that a UTF-8 character still has
    std::uint64_t wide_characters_ = 0;       ///< of UTF-8, of several bytes
    std::optional<std::uint8_t> half_;        ///< of a UTF-16 unit
    bool high_surrogate_ = false;
};

/// Is the byte a control character that no text has? Line ends, tabs, form feeds and what terminals are told
/// are in texts.
constexpr bool is_stray_control(std::uint32_t c) {
    // Shifts to another set (ISO 2022) are 0E and 0F.
    return (c < 0x20 && !(c >= '\b' && c <= 0x0F) && c != 0x1B) || c == 0x7F;
}

}  // namespace undershelf
