// Small RIFF files, and pictures of Windows and Photoshop.

#include "support/file_parts.hpp"
#include "support/memory_content.hpp"

namespace undershelf::test {

namespace {

ByteVector chunk(std::string_view name, const ByteVector& data) {
    ByteVector out;
    append(out, name);
    append_number(out, data.size(), 4);
    append(out, data);
    out.resize(out.size() + out.size() % 2);
    return out;
}
ByteVector list(std::string_view name, std::string_view form, std::initializer_list<ByteVector> chunks) {
    ByteVector data;
    append(data, form);
    for (const auto& c : chunks) append(data, c);
    return chunk(name, data);
}

}  // namespace

ByteVector wav_file() {
    ByteVector format;
    for (const std::uint64_t n : {1, 2}) append_number(format, n, 2);
    for (const std::uint64_t n : {44100, 176400}) append_number(format, n, 4);
    for (const std::uint64_t n : {4, 16}) append_number(format, n, 2);
    ByteVector name;
    append(name, "Thunder");
    return list(
        "RIFF", "WAVE",
        {chunk("fmt ", format), list("LIST", "INFO", {chunk("INAM", name)}), chunk("data", libretto(4001))});
}

ByteVector avi_file(std::size_t frame) {
    ByteVector frames, index;
    append(frames, "movi");
    for (std::size_t i = 0; i < 20; ++i) {
        append(frames, chunk("00dc", libretto(frame + i)));
        append(frames, chunk("01wb", libretto(frame / 4)));
        index.resize(index.size() + 32, static_cast<std::uint8_t>(i));
    }
    return list("RIFF", "AVI ",
                {list("LIST", "hdrl", {chunk("avih", ByteVector(56))}), chunk("JUNK", ByteVector(100)),
                 chunk("LIST", frames), chunk("idx1", index)});
}

ByteVector bmp_file() {
    constexpr std::uint64_t side = 40, head = 54;
    ByteVector out;
    append(out, "BM");
    for (const std::uint64_t n :
         {head + side * side * 3, std::uint64_t{0}, head, std::uint64_t{40}, side, side})
        append_number(out, n, 4);
    append_number(out, 1, 2);
    append_number(out, 24, 2);
    out.resize(head);
    append(out, libretto(side * side * 3));
    return out;
}

ByteVector psd_file() {
    constexpr std::uint64_t side = 64, channels = 3;
    ByteVector out, resources;
    append(out, "8BPS");
    append_number(out, 1, 2, true);
    out.resize(12);
    append_number(out, channels, 2, true);
    for (const std::uint64_t n : {side, side}) append_number(out, n, 4, true);
    for (const std::uint64_t n : {8, 3}) append_number(out, n, 2, true);
    append_number(out, 0, 4, true);
    append(resources, "8BIM");
    append_number(resources, 1005, 2, true);
    append_number(resources, 0, 2, true);
    append_number(resources, 16, 4, true);
    resources.resize(resources.size() + 16);
    append_number(out, resources.size(), 4, true);
    append(out, resources);
    append_number(out, 0, 4, true);
    append_number(out, 1, 2, true);
    // Every row: 60 bytes as they are, then four alike.
    for (std::size_t i = 0; i < side * channels; ++i) append_number(out, 63, 2, true);
    for (std::size_t i = 0; i < side * channels; ++i) {
        out.push_back(59);
        append(out, libretto(60));
        append(out, ByteVector{253, 7});
    }
    return out;
}

ByteVector ico_file() {
    const auto picture = png_file();
    ByteVector out;
    for (const std::uint64_t n : {0, 1, 1}) append_number(out, n, 2);
    append(out, ByteVector{40, 40, 0, 0, 1, 0, 32, 0});
    append_number(out, picture.size(), 4);
    append_number(out, 22, 4);
    append(out, picture);
    return out;
}

}  // namespace undershelf::test
