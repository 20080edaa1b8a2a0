// Small TIFF pictures, and raw pictures of cameras.

#include "support/file_parts.hpp"
#include "support/memory_content.hpp"

namespace undershelf::test {

namespace {

constexpr std::size_t side = 64;
constexpr int strips = 4;

}  // namespace

ByteVector tiff_file(const TiffParts& parts) {
    const bool big = parts.big_endian;
    ByteVector out;
    append(out, big ? "MM" : "II");
    append_number(out, 42, 2, big);
    append_number(out, 0, 4, big);
    std::vector<std::uint64_t> offsets, sizes;
    const auto pixels = libretto(side * side);
    for (std::size_t i = 0; i < strips; ++i) {
        const auto from = pixels.begin() + static_cast<std::ptrdiff_t>(i * pixels.size() / strips);
        const ByteVector strip(from, from + static_cast<std::ptrdiff_t>(pixels.size() / strips));
        const auto data = parts.deflated ? deflated(strip, MAX_WBITS) : strip;
        offsets.push_back(out.size());
        sizes.push_back(data.size());
        append(out, data);
    }
    out.resize(out.size() + out.size() % 2);
    const auto offsets_at = out.size();
    for (const auto n : offsets) append_number(out, n, 4, big);
    const auto sizes_at = out.size();
    for (const auto n : sizes) append_number(out, n, 4, big);
    put_number(out, 4, out.size(), 4, big);
    constexpr int short_type = 3, long_type = 4;
    struct Entry {
        std::uint64_t tag, type, count, value;
    };
    const std::vector<Entry> entries{{256, long_type, 1, side},
                                     {257, long_type, 1, side},
                                     {258, short_type, 1, 8},
                                     {259, short_type, 1, parts.deflated ? 8u : 1u},
                                     {262, short_type, 1, parts.photometric},
                                     {273, long_type, strips, offsets_at},
                                     {277, short_type, 1, 1},
                                     {278, long_type, 1, side / strips},
                                     {279, long_type, strips, sizes_at}};
    append_number(out, entries.size(), 2, big);
    for (const auto& e : entries) {
        append_number(out, e.tag, 2, big);
        append_number(out, e.type, 2, big);
        append_number(out, e.count, 4, big);
        append_number(out, e.value, e.type == short_type ? 2 : 4, big);
        if (e.type == short_type) append_number(out, 0, 2);
    }
    append_number(out, 0, 4, big);
    return out;
}

ByteVector ciff_file() {
    ByteVector out;
    append(out, "II");
    append_number(out, 26, 4);
    append(out, "HEAPCCDR");
    out.resize(26);
    append(out, libretto(3000));
    append_number(out, 1, 2);  // one entry: tag, length, offset within the heap
    append_number(out, 0x2005, 2);
    append_number(out, 2900, 4);
    append_number(out, 10, 4);
    append_number(out, 3000, 4);
    return out;
}

ByteVector raf_file() {
    ByteVector out;
    append(out, "FUJIFILMCCD-RAW 0201");
    out.resize(108);
    const auto picture = jpeg_file();
    const std::uint64_t data = 108 + picture.size();
    const std::uint64_t places[] = {108, picture.size(), data, 100, data + 100, 4000};
    for (std::size_t i = 0; i < 6; ++i) put_number(out, 84 + i * 4, places[i], 4, true);
    append(out, picture);
    append(out, libretto(4100));
    return out;
}

ByteVector mrw_file() {
    ByteVector out(4);
    std::copy_n("\0MRM", 4, out.begin());
    append_number(out, 32, 4, true);
    append(out, ByteVector{0, 'P', 'R', 'D'});
    append_number(out, 24, 4, true);
    ByteVector measures(24);
    put_number(measures, 8, 40, 2, true);
    put_number(measures, 10, 50, 2, true);
    measures[16] = 12;
    append(out, measures);
    append(out, libretto(40 * 50 * 12 / 8));
    return out;
}

ByteVector x3f_file() {
    ByteVector out;
    append(out, "FOVb");
    append(out, libretto(3000));
    const auto at = out.size();
    append(out, "SECd");
    for (const std::uint64_t n : {2, 1, 40, 2900}) append_number(out, n, 4);
    append(out, "IMA2");
    append_number(out, at, 4);
    return out;
}

}  // namespace undershelf::test
