#include "clusters/fat_stretch.hpp"

#include <cstring>
#include <optional>

namespace undershelf::clusters {

namespace {

constexpr std::size_t sector = 512;
/// So many entries of one sector must agree; other data hardly counts up by itself, and less so from a place
/// at a sector's start.
constexpr unsigned fewest_agreeing = 12;
/// A stretch ends where such a unit does: a live file may have the next one, and then only that is lost.
constexpr std::uint64_t unit = 4096;

/// Entry `i` of a sector; 12-bit ones begin `skip` half-bytes into it.
template <unsigned bits>
std::uint32_t entry_at(const std::uint8_t* s, std::size_t i, std::size_t skip) {
    if constexpr (bits == 32) {
        std::uint32_t v;
        std::memcpy(&v, s + 4 * i, 4);
        return v;
    }
    if constexpr (bits == 16) return static_cast<std::uint32_t>(s[2 * i] | s[2 * i + 1] << 8);
    const auto nibble = 3 * i + skip;
    const auto at = nibble / 2;
    const auto pair = static_cast<std::uint32_t>(s[at] | s[at + 1] << 8);
    return nibble % 2 ? pair >> 4 : pair & 0xFFF;
}

/// A look at a few neighbours turns away what does not count up anywhere.
template <unsigned bits>
bool counts_up(const std::uint8_t* s, std::uint32_t mask, std::size_t skip) {
    constexpr std::size_t entries = sector * 8 / bits - 2;
    for (std::size_t i = entries / 8; i < entries; i += entries / 5) {
        if ((entry_at<bits>(s, i + 1, skip) & mask) == (entry_at<bits>(s, i, skip) & mask) + 1) return true;
    }
    return false;
}

/// The table's start that most entries of the sector speak for. `skip`: half-bytes before its first entry.
template <unsigned bits>
std::optional<std::uint64_t> table_by(const std::uint8_t* s, std::uint64_t place, std::uint32_t mask,
                                      std::size_t skip) {
    if (!counts_up<bits>(s, mask, skip)) return std::nullopt;
    const auto entries = (sector * 8 - 4 * skip) / bits - (bits == 12);
    // Where the vote goes is where the longest count up lies; entries apart from it then agree or do not.
    std::int64_t best = 0;
    unsigned run = 0, longest = 0, all = 0;
    for (std::size_t i = 0; i + 1 < entries; ++i) {
        const auto v = entry_at<bits>(s, i, skip) & mask;
        const bool next = v > 2 && (entry_at<bits>(s, i + 1, skip) & mask) == v + 1;
        run = next ? run + 1 : 0;
        if (run <= longest) continue;
        longest = run;
        const auto half_bytes = static_cast<std::int64_t>(2 * place + skip) +
                                (static_cast<std::int64_t>(i) - (static_cast<std::int64_t>(v) - 1)) *
                                    static_cast<std::int64_t>(bits / 4);
        best = half_bytes;
    }
    if (best < 0 || best % static_cast<std::int64_t>(2 * sector)) return std::nullopt;
    const auto start = static_cast<std::uint64_t>(best) / 2;
    for (std::size_t i = 0; i < entries; ++i) {
        const auto index = (2 * (place - start) + skip) * 4 / bits + i;
        all += (entry_at<bits>(s, i, skip) & mask) == ((index + 1) & mask);
    }
    return all >= fewest_agreeing ? std::optional(start) : std::nullopt;
}

template <unsigned bits>
std::optional<FatStretch> stretch_of_width(Bytes bytes, std::uint64_t place, std::uint32_t mask) {
    constexpr std::size_t skips = bits == 12 ? 3 : 1;
    for (std::size_t skip = 0; skip < skips; ++skip) {
        const auto start = table_by<bits>(bytes.data(), place, mask, skip);
        if (!start || *start > place) continue;
        // Of 12-bit entries the sector's place in its table tells where they begin.
        if (bits == 12 && (2 * (place - *start) + skip) % 3) continue;
        return FatStretch{{place, sector}, *start, bits};
    }
    return std::nullopt;
}

std::optional<FatStretch> stretch_at(Bytes bytes, std::uint64_t place, unsigned bits, std::uint32_t mask) {
    switch (bits) {
        case 12:
            return stretch_of_width<12>(bytes, place, 0xFFFFFFFF);
        case 16:
            return stretch_of_width<16>(bytes, place, 0xFFFFFFFF);
        default:
            return stretch_of_width<32>(bytes, place, mask);
    }
}

}  // namespace

std::vector<FatStretch> find_fat_stretches(const SweepBuffer& buffer, std::uint32_t mask,
                                           std::initializer_list<unsigned> widths) {
    std::vector<FatStretch> out;
    for (std::size_t at = (sector - buffer.offset % sector) % sector;
         at < buffer.owned && at + sector <= buffer.bytes.size(); at += sector) {
        const auto bytes = buffer.bytes.subspan(at, sector);
        if (bytes[0] == 0 && all_zero(bytes)) continue;
        for (const auto bits : widths) {
            const auto found = stretch_at(bytes, buffer.offset + at, bits, mask);
            if (!found) continue;
            auto* last = out.empty() ? nullptr : &out.back();
            if (last && last->range.end() == found->range.offset && found->range.offset % unit &&
                last->table == found->table && last->bits == bits) {
                last->range.length += sector;
            } else {
                out.push_back(*found);
            }
            break;
        }
    }
    return out;
}

Trace trace_of(const FatStretch& stretch, std::uint32_t kind) {
    return {kind,
            stretch.range.offset,
            stretch.table,
            stretch.range.length | std::uint64_t{stretch.bits} << 56,
            {}};
}

FatStretch stretch_of(const Trace& trace) {
    return {{trace.offset, trace.b & ((1ull << 56) - 1)}, trace.a, static_cast<unsigned>(trace.b >> 56)};
}

}  // namespace undershelf::clusters
