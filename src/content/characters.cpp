#include "content/characters.hpp"

#include <algorithm>

namespace undershelf {

namespace {

constexpr std::uint64_t near = 256;  ///< bytes within which strays count together
/// Old texts draw lines with one character (code page 437: `C4`, `CD`), as wide as paper was: 132 columns.
constexpr std::uint64_t longest_line = 256;
constexpr unsigned most_malformed = 32;  ///< of 256 bytes; old texts mix encodings
constexpr char16_t order_mark = 0xFEFF;

bool has_mark(Bytes first, std::uint8_t a, std::uint8_t b) {
    return first.size() >= 2 && first[0] == a && first[1] == b;
}

bool is_odd_unit(char16_t c) {
    const bool noncharacter = c >= 0xFFFE || (c >= 0xFDD0 && c <= 0xFDEF);
    return is_stray_control(c) || noncharacter;
}

/// UTF-16 without a mark: characters of few scripts, with spaces or line ends between.
bool is_unmarked_utf16(Bytes first, bool big_endian) {
    constexpr std::size_t least = 16;
    if (first.size() < 2 * least) return false;
    std::bitset<256> scripts;
    bool spaces = false;
    for (std::size_t i = 0; i + 1 < first.size(); i += 2) {
        const auto high = first[i + !big_endian], low = first[i + big_endian];
        const auto c = static_cast<char16_t>(high << 8 | low);
        if (is_odd_unit(c) || (c >= 0xD800 && c <= 0xF8FF)) return false;
        scripts.set(high);
        spaces |= c == ' ' || c == '\n';
    }
    constexpr std::size_t most_scripts = 4;
    return spaces && scripts.test(0) && scripts.count() <= most_scripts;
}

/// How many bytes a UTF-8 character has that begins so (Unicode Standard, table 3-7); 0 for none.
unsigned utf8_length(std::uint8_t b) {
    if (b < 0x80) return 1;
    if (b >= 0xC2 && b < 0xE0) return 2;
    if (b >= 0xE0 && b < 0xF0) return 3;
    return b >= 0xF0 && b < 0xF5 ? 4 : 0;
}

/// Well formed, but that the last character may be cut off.
bool is_utf8(Bytes bytes) {
    for (std::size_t i = 0; i < bytes.size();) {
        const auto length = utf8_length(bytes[i]);
        if (length == 0) return false;
        for (unsigned j = 1; j < length && i + j < bytes.size(); ++j) {
            if ((bytes[i + j] & 0xC0) != 0x80) return false;
        }
        i += length;
    }
    return true;
}

/// Noise of this few bytes may be without a control by chance.
constexpr std::size_t short_text = 128;

bool is_eight_bit(Bytes bytes) {
    const auto high = static_cast<std::size_t>(
        std::count_if(bytes.begin(), bytes.end(), [](std::uint8_t b) { return b >= 0x80; }));
    return bytes.size() >= short_text || high * 4 <= bytes.size();
}

}  // namespace

std::optional<Encoding> encoding_of(Bytes first) {
    if (first.empty()) return std::nullopt;
    for (const auto encoding : {Encoding::utf16_le, Encoding::utf16_be}) {
        const bool big_endian = encoding == Encoding::utf16_be;
        const bool marked = big_endian ? has_mark(first, 0xFE, 0xFF) : has_mark(first, 0xFF, 0xFE);
        if (!marked && !is_unmarked_utf16(first, big_endian)) continue;
        TextScan scan(encoding);
        return scan.take(first) ? std::optional(encoding) : std::nullopt;
    }
    TextScan scan(Encoding::eight_bit);
    auto text = first;
    if (!scan.take(first)) {
        // A short text, with zeros after its end.
        constexpr std::size_t least = 8;
        const auto end = static_cast<std::size_t>(*scan.broken_at());
        if (end < least || !all_zero(first.subspan(end))) return std::nullopt;
        text = first.first(end);
    }
    if (text.size() < short_text && std::any_of(text.begin(), text.end(), is_stray_control))
        return std::nullopt;
    if (is_utf8(text)) return Encoding::utf8;
    return is_eight_bit(text) ? std::optional(Encoding::eight_bit) : std::nullopt;
}

bool TextScan::take(Bytes part) {
    if (broken_at_) return false;
    const bool wide = encoding_ == Encoding::utf16_le || encoding_ == Encoding::utf16_be;
    return wide ? take_units(part) : take_bytes(part);
}

bool TextScan::take_bytes(Bytes part) {
    for (std::size_t i = 0; i < part.size() && !broken_at_;) {
        // Most of a text is plain.
        if (follow_ == 0) {
            const auto from = i;
            while (i < part.size() && part[i] < 0x7F && part[i] >= 0x20) ++i;
            at_ += i - from;
            if (i > from) alike_ = 0;
            if (i == part.size()) break;
        }
        byte(part[i++]);
        ++at_;
    }
    return !broken_at_;
}

void TextScan::byte(std::uint8_t b) {
    if (is_stray_control(b)) stray(b == 0);
    alike_ = b >= 0x80 && b == last_ ? alike_ + 1 : 0;
    last_ = b;
    if (alike_ == longest_line && !broken_at_) broken_at_ = at_ - longest_line;
    if (encoding_ != Encoding::utf8) return;
    if (follow_ > 0 && (b & 0xC0) == 0x80) {
        wide_characters_ += --follow_ == 0;
        return;
    }
    if (follow_ > 0 || utf8_length(b) == 0) {
        // Until then it may have been in any other encoding as well.
        constexpr std::uint64_t telling = 8;
        if (wide_characters_ < telling) encoding_ = Encoding::eight_bit;
        malformed();
    }
    follow_ = std::max(utf8_length(b), 1u) - 1;
}

bool TextScan::take_units(Bytes part) {
    for (const auto b : part) {
        if (broken_at_) break;
        if (half_) {
            const auto first = *half_;
            half_.reset();
            unit(static_cast<char16_t>(encoding_ == Encoding::utf16_be ? first << 8 | b : b << 8 | first));
        } else {
            half_ = b;
        }
        ++at_;
    }
    return !broken_at_;
}

void TextScan::unit(char16_t c) {
    // `at_` is the unit's second byte.
    const bool low = c >= 0xDC00 && c < 0xE000, high = c >= 0xD800 && c < 0xDC00;
    if (is_odd_unit(c) || low != high_surrogate_) stray(c == 0);
    high_surrogate_ = high;
    if (c == order_mark) return;
    const auto script = static_cast<std::size_t>(c >> 8);
    new_scripts_.set(script);
    if (!scripts_.test(script)) malformed();
    if (at_ - stretch_at_ >= near) close_stretch();
}

void TextScan::stray(bool zero) {
    if (strays_[0] != ~0ull && at_ - strays_[0] < near) {
        broken_at_ = strays_[0];
        if (encoding_ == Encoding::utf16_le || encoding_ == Encoding::utf16_be) *broken_at_ -= 1;
        zeros_ = stray_zeros_[0] && stray_zeros_[1] && zero;
    }
    strays_[0] = strays_[1];
    stray_zeros_[0] = stray_zeros_[1];
    strays_[1] = at_;
    stray_zeros_[1] = zero;
}

void TextScan::close_stretch() {
    // What a text begins with is its script; what comes to it later does so little by little.
    constexpr unsigned first_stretches = 8;
    const auto units = static_cast<unsigned>(near / 2);
    if (stretches_ >= first_stretches && odd_ > units / 2) broken_at_ = odd_at_ - 1;
    ++stretches_;
    scripts_ |= new_scripts_;
    stretch_at_ = at_;
    odd_ = 0;
}

void TextScan::malformed() {
    if (encoding_ == Encoding::eight_bit) return;
    const bool wide = encoding_ != Encoding::utf8;
    if (!wide && at_ - stretch_at_ >= near) {
        stretch_at_ = at_;
        odd_ = 0;
    }
    if (odd_++ == 0) odd_at_ = at_;
    if (!wide && odd_ > most_malformed) broken_at_ = odd_at_;
}

}  // namespace undershelf
