// Small fonts and programs.

#include <brotli/encode.h>

#include "support/file_parts.hpp"
#include "support/memory_content.hpp"

namespace undershelf::test {

namespace {

struct FontTable {
    std::string tag;
    ByteVector content;
};

std::vector<FontTable> font_tables(const ByteVector& names = {}) {
    return {{"glyf", libretto(4001)}, {"name", names.empty() ? libretto(600) : names}};
}

std::uint32_t sum_of(const ByteVector& bytes) {
    std::uint32_t out = 0;
    for (std::size_t i = 0; i < bytes.size(); ++i) out += std::uint32_t{bytes[i]} << (24 - 8 * (i % 4));
    return out;
}

}  // namespace

ByteVector font_file(bool open_type, const ByteVector& names) {
    const auto tables = font_tables(names);
    ByteVector out, data;
    append_number(out, open_type ? 0x4F54544F : 0x00010000, 4, true);
    for (const std::uint64_t n : {tables.size(), std::size_t{32}, std::size_t{1}, std::size_t{0}})
        append_number(out, n, 2, true);
    const auto first = out.size() + tables.size() * 16;
    for (const auto& t : tables) {
        append(out, t.tag);
        for (const std::uint64_t n : {std::uint64_t{sum_of(t.content)}, std::uint64_t{first + data.size()},
                                      std::uint64_t{t.content.size()}})
            append_number(out, n, 4, true);
        append(data, t.content);
        data.resize((data.size() + 3) / 4 * 4);
    }
    append(out, data);
    return out;
}

ByteVector woff_file(const ByteVector& names) {
    const auto tables = font_tables(names);
    ByteVector directory, data;
    const auto first = 44 + tables.size() * 20;
    for (const auto& t : tables) {
        const auto packed = deflated(t.content, MAX_WBITS);
        append(directory, t.tag);
        for (const std::uint64_t n : {std::uint64_t{first + data.size()}, std::uint64_t{packed.size()},
                                      std::uint64_t{t.content.size()}, std::uint64_t{sum_of(t.content)}})
            append_number(directory, n, 4, true);
        append(data, packed);
        data.resize((data.size() + 3) / 4 * 4);
    }
    ByteVector out;
    append(out, "wOFF");
    append_number(out, 0x00010000, 4, true);
    append_number(out, first + data.size(), 4, true);
    append_number(out, tables.size(), 2, true);
    out.resize(44);
    append(out, directory);
    append(out, data);
    return out;
}

ByteVector woff2_file() {
    const auto tables = font_tables();
    ByteVector directory, data;
    for (const auto& t : tables) {
        constexpr std::uint8_t glyf_as_it_is = 3 << 6 | 10, name = 5;
        directory.push_back(t.tag == "glyf" ? glyf_as_it_is : name);
        directory.push_back(static_cast<std::uint8_t>(0x80 | t.content.size() >> 7));
        directory.push_back(static_cast<std::uint8_t>(t.content.size() & 0x7F));
        append(data, t.content);
    }
    auto size = BrotliEncoderMaxCompressedSize(data.size());
    ByteVector packed(size);
    BrotliEncoderCompress(9, BROTLI_DEFAULT_WINDOW, BROTLI_MODE_FONT, data.size(), data.data(), &size,
                          packed.data());
    packed.resize(size);
    constexpr std::size_t head = 48;
    const auto end = (head + directory.size() + size + 3) / 4 * 4;
    ByteVector out;
    append(out, "wOF2");
    append_number(out, 0x00010000, 4, true);
    append_number(out, end, 4, true);
    append_number(out, tables.size(), 2, true);
    append_number(out, 0, 2, true);
    append_number(out, data.size() + 44, 4, true);
    append_number(out, size, 4, true);
    out.resize(head);
    append(out, directory);
    append(out, packed);
    out.resize(end);
    return out;
}

ByteVector elf_file() {
    // A head of 64 bits, a section's bytes, then the table of sections: that one alone.
    ByteVector out;
    append(out, std::string_view("\x7f"
                                 "ELF\2\1\1",
                                 7));
    out.resize(64);
    append(out, libretto(4000));
    put_number(out, 40, out.size(), 8);
    put_number(out, 58, 64, 2);
    put_number(out, 60, 1, 2);
    ByteVector section(64);
    put_number(section, 4, 1, 4);
    put_number(section, 24, 64, 8);
    put_number(section, 32, 4000, 8);
    append(out, section);
    return out;
}

ByteVector pe_file() {
    ByteVector out(0x80);
    out[0] = 'M';
    out[1] = 'Z';
    put_number(out, 0x3C, 0x80, 4);
    append(out, std::string_view("PE\0\0", 4));
    ByteVector coff(20);
    put_number(coff, 2, 1, 2);
    append(out, coff);
    ByteVector section(40);
    put_number(section, 16, 4000, 4);
    put_number(section, 20, 512, 4);
    append(out, section);
    out.resize(512);
    append(out, libretto(4000));
    return out;
}

}  // namespace undershelf::test
