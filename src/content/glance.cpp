#include "content/glance.hpp"

#include <algorithm>
#include <array>
#include <bitset>
#include <string_view>

#include "content/characters.hpp"

namespace undershelf {

namespace {

using namespace std::string_view_literals;

/// The first two bytes of everything that begins with a mark of its own.
constexpr std::string_view marks[] = {"\x89P"sv,
                                      "\xff\xd8"sv,
                                      "GI"sv,
                                      "RI"sv,
                                      "II"sv,
                                      "MM"sv,
                                      "FU"sv,
                                      "\0M"sv,
                                      "FO"sv,
                                      "8B"sv,
                                      "BM"sv,
                                      "\0\0"sv,
                                      "\x1a\x45"sv,
                                      "0&"sv,
                                      "ID"sv,
                                      "fL"sv,
                                      "Og"sv,
                                      "MT"sv,
                                      "%P"sv,
                                      "%!"sv,
                                      "\x04\x22"sv,
                                      "\xca\xfe"sv,
                                      "!B"sv,
                                      "\xd0\xcf"sv,
                                      "{\\"sv,
                                      "PK"sv,
                                      "\x1f\x8b"sv,
                                      "BZ"sv,
                                      "\xfd"
                                      "7"sv,
                                      "\x28\xb5"sv,
                                      "7z"sv,
                                      "Ra"sv,
                                      "MS"sv,
                                      "SQ"sv,
                                      "\x7f"
                                      "E"sv,
                                      "MZ"sv,
                                      "\0\1"sv,
                                      "tr"sv,
                                      "OT"sv,
                                      "tt"sv,
                                      "wO"sv};

using Pairs = std::bitset<65536>;

const Pairs& marked_pairs() {
    static const auto pairs = [] {
        Pairs out;
        const auto set = [&](unsigned a, unsigned b) { out.set(a << 8 | b); };
        for (const auto m : marks) set(static_cast<std::uint8_t>(m[0]), static_cast<std::uint8_t>(m[1]));
        // A frame of an MP3 stream (ISO/IEC 11172-3, 2.4.1.3): eleven bits are set.
        for (unsigned b = 0xE0; b <= 0xFF; ++b) set(0xFF, b);
        return out;
    }();
    return pairs;
}

std::uint32_t four(Bytes first, std::size_t at) {
    return static_cast<std::uint32_t>(first[at]) << 24 | static_cast<std::uint32_t>(first[at + 1]) << 16 |
           static_cast<std::uint32_t>(first[at + 2]) << 8 | first[at + 3];
}
constexpr std::uint32_t word(std::string_view w) {
    std::uint32_t out = 0;
    for (const char c : w) out = out << 8 | static_cast<std::uint8_t>(c);
    return out;
}

/// What stands behind the length of the first box or record.
bool has_mark_behind_length(Bytes first) {
    switch (four(first, 4)) {
        case word("ftyp"):
        case word("moov"):
        case word("mdat"):
        case word("wide"):
        case word("pnot"):
        case word("Stan"):
            return true;
        default:
            return false;
    }
}

/// Packets of a transport stream (ISO/IEC 13818-1, 2.4.3.2), the first two.
bool may_be_transport(Bytes first) {
    constexpr std::uint8_t sync = 0x47;
    return (first[0] == sync && (first[188] == sync || first[204] == sync)) ||
           (first[4] == sync && first[196] == sync);
}

/// The sum in a tar member's head (POSIX.1-1988, 10.1.1): digits and spaces, or zeros behind them.
bool may_be_tar(Bytes first) {
    return first[0] != 0 && first[149] != 0 &&
           std::all_of(first.begin() + 148, first.begin() + 156,
                       [](std::uint8_t b) { return b == 0 || b == ' ' || (b >= '0' && b <= '7'); });
}

constexpr std::size_t glanced = 64;

/// Of every second byte few are different: they tell the script.
bool may_be_utf16(Bytes first, std::size_t from) {
    std::array<std::uint8_t, 4> scripts{};
    std::size_t count = 0;
    for (std::size_t i = from; i < std::min(first.size(), glanced); i += 2) {
        const auto end = scripts.begin() + static_cast<std::ptrdiff_t>(count);
        if (std::find(scripts.begin(), end, first[i]) != end) continue;
        if (count == scripts.size()) return false;
        scripts[count++] = first[i];
    }
    return true;
}

}  // namespace

bool may_be_text(Bytes bytes) {
    return std::none_of(bytes.begin(), bytes.end(), [](std::uint8_t b) { return is_stray_control(b); });
}

Glance glance(Bytes first) {
    if (first.size() < 2) return Glance::nothing;
    const auto pair = static_cast<unsigned>(first[0]) << 8 | first[1];
    // Most of what is empty is zeros, and nothing begins with eight.
    if (pair == 0 && first.size() >= 8 && four(first, 0) == 0 && four(first, 4) == 0) return Glance::nothing;
    if (marked_pairs().test(pair)) return Glance::mark;
    if (first.size() >= 8 && has_mark_behind_length(first)) return Glance::mark;
    if (first.size() >= 205 && may_be_transport(first)) return Glance::mark;
    if (first.size() >= 512 && may_be_tar(first)) return Glance::mark;
    // A text may be shorter than what is glanced at, with zeros behind its end.
    constexpr std::size_t shortest = 8;
    const auto most = std::min(first.size(), glanced);
    std::size_t characters = 0;
    while (characters < most && !is_stray_control(first[characters])) ++characters;
    const auto behind = first.subspan(characters, std::min(first.size() - characters, shortest));
    if (characters == most || (characters >= shortest && all_zero(behind))) return Glance::text;
    return may_be_utf16(first, 0) || may_be_utf16(first, 1) ? Glance::text : Glance::nothing;
}

}  // namespace undershelf
