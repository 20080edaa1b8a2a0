#include "content/titles.hpp"

#include "base/printable.hpp"
#include "base/text.hpp"

namespace undershelf::content {

std::string as_title(std::string_view utf8) {
    constexpr std::size_t longest = 120;  // bytes
    const auto text = without_controls(composed(utf8.substr(0, 4 * longest)));
    std::string out;
    bool space = false;
    for_each_character(text, [&](char32_t c, std::string_view bytes) {
        if (c == ' ') {
            space = !out.empty();
            return;
        }
        if (out.size() + space + bytes.size() > longest) return;
        if (space) out += ' ';
        space = false;
        out += bytes;
    });
    return out;
}

std::string song_title(std::string_view artist, std::string_view title) {
    if (artist.empty() || title.empty()) return as_title(artist.empty() ? title : artist);
    return as_title(std::string(artist) + " - " + std::string(title));
}

std::string from_latin_1(Bytes bytes) {
    std::u16string units;
    for (const auto b : bytes) {
        if (b == 0) break;
        units += static_cast<char16_t>(b);
    }
    return utf8_from_utf16(units);
}

std::string from_utf16(Bytes bytes, bool big_endian) {
    std::u16string units;
    for (std::size_t i = 0; i + 1 < bytes.size(); i += 2) {
        const auto unit = static_cast<char16_t>(bytes[i + !big_endian] << 8 | bytes[i + big_endian]);
        if (unit == 0) break;
        if (unit != 0xFEFF) units += unit;
    }
    return utf8_from_utf16(units);
}

ByteVector tag_bytes(Content& content, std::uint64_t at, std::uint64_t size) {
    ByteVector out(static_cast<std::size_t>(std::min<std::uint64_t>(size, most_tags)));
    out.resize(content.read(at, out));
    return out;
}

}  // namespace undershelf::content
