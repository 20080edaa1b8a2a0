// Small compound files ([MS-CFB]) and the older office documents in them.

#include "support/file_parts.hpp"
#include "support/memory_content.hpp"

namespace undershelf::test {

namespace {

constexpr std::size_t sector = 512;
constexpr std::uint32_t end_of_chain = 0xFFFFFFFE, unused = 0xFFFFFFFF, table_sector = 0xFFFFFFFD;

ByteVector directory_entry(std::string_view name, int type, std::uint64_t start, std::uint64_t size,
                           std::uint64_t right, std::uint64_t child) {
    ByteVector out(128);
    for (std::size_t i = 0; i < name.size(); ++i) out[i * 2] = static_cast<std::uint8_t>(name[i]);
    put_number(out, 64, (name.size() + 1) * 2, 2);
    out[66] = static_cast<std::uint8_t>(type);
    out[67] = 1;
    put_number(out, 68, unused, 4);
    put_number(out, 72, right, 4);
    put_number(out, 76, child, 4);
    put_number(out, 116, start, 4);
    put_number(out, 120, size, 8);
    return out;
}

ByteVector record(std::uint64_t type, const ByteVector& data) {
    ByteVector out;
    append_number(out, type, 2);
    append_number(out, data.size(), 2);
    append(out, data);
    return out;
}

ByteVector presentation_record(std::uint64_t version, std::uint64_t type, const ByteVector& data) {
    ByteVector out;
    append_number(out, version, 2);
    append_number(out, type, 2);
    append_number(out, data.size(), 4);
    append(out, data);
    return out;
}

}  // namespace

ByteVector compound_file(const std::vector<CompoundStreamParts>& streams) {
    // Sector 0 is the table, 1 and 2 the directory, 3 the table of small sectors; the streams follow, and
    // last what holds the small ones.
    constexpr std::size_t small_sector = 64, small_limit = 4096;
    std::vector<std::uint32_t> table{table_sector, 2, end_of_chain, end_of_chain}, small_table;
    ByteVector data, small, entries;
    const auto chained = [](std::vector<std::uint32_t>& in, std::size_t bytes, std::size_t unit) {
        const auto start = in.size();
        const auto sectors = (bytes + unit - 1) / unit;
        for (std::size_t s = 1; s <= sectors; ++s)
            in.push_back(s == sectors ? end_of_chain : static_cast<std::uint32_t>(in.size() + 1));
        return sectors ? start : std::size_t{end_of_chain};
    };
    const auto padded = [](ByteVector& out, const ByteVector& content, std::size_t unit) {
        append(out, content);
        out.resize((out.size() + unit - 1) / unit * unit);
    };
    for (std::size_t i = 0; i < streams.size(); ++i) {
        const auto& content = streams[i].content;
        const bool is_small = content.size() < small_limit;
        const auto start = is_small ? chained(small_table, content.size(), small_sector)
                                    : chained(table, content.size(), sector);
        padded(is_small ? small : data, content, is_small ? small_sector : sector);
        append(entries, directory_entry(streams[i].name, 2, start, content.size(),
                                        i + 1 < streams.size() ? i + 2 : unused, unused));
    }
    auto directory =
        directory_entry("Root Entry", 5, chained(table, small.size(), sector), small.size(), unused, 1);
    append(directory, entries);
    directory.resize(2 * sector);
    padded(data, small, sector);
    table.resize(sector / 4, unused);
    small_table.resize(sector / 4, unused);
    ByteVector out(sector);
    const ByteVector magic{0xD0, 0xCF, 0x11, 0xE0, 0xA1, 0xB1, 0x1A, 0xE1};
    std::copy(magic.begin(), magic.end(), out.begin());
    for (const auto& [at, value] : std::initializer_list<std::pair<std::size_t, std::uint64_t>>{
             {24, 0x3E}, {26, 3}, {28, 0xFFFE}, {30, 9}, {32, 6}})
        put_number(out, at, value, 2);
    for (const auto& [at, value] : std::initializer_list<std::pair<std::size_t, std::uint64_t>>{
             {44, 1}, {48, 1}, {56, small_limit}, {60, 3}, {64, 1}, {68, end_of_chain}})
        put_number(out, at, value, 4);
    for (std::size_t i = 0; i < 109; ++i) put_number(out, 76 + i * 4, i == 0 ? 0 : unused, 4);
    for (const auto next : table) append_number(out, next, 4);
    append(out, directory);
    for (const auto next : small_table) append_number(out, next, 4);
    append(out, data);
    return out;
}

ByteVector xls_file() {
    ByteVector book = record(0x0809, ByteVector(16, 6));
    for (std::size_t i = 0; i < 60; ++i) append(book, record(0x00FD, libretto(40 + i)));
    append(book, record(0x000A, {}));
    return compound_file({{"Workbook", book}, {"Summary", libretto(4096)}});
}

ByteVector ppt_file() {
    ByteVector slides;
    for (std::size_t i = 0; i < 40; ++i)
        append(slides, presentation_record(15, 0x03EE, presentation_record(0, 0x0FA0, libretto(100 + i))));
    ByteVector picture(17, 7);
    append(picture, jpeg_file());
    return compound_file({{"PowerPoint Document", presentation_record(15, 0x03E8, slides)},
                          {"Pictures", presentation_record(0x46A0, 0xF01D, picture)}});
}

ByteVector doc_file() {
    ByteVector text(sector * 9);
    put_number(text, 0, 0xA5EC, 2);
    put_number(text, 2, 0xC1, 2);
    put_number(text, 0x0A, 0x0200, 2);
    const auto words = libretto(sector * 6);
    std::copy(words.begin(), words.end(), text.begin() + 2 * sector);
    // One formatting page for characters, one for paragraphs: two runs each.
    ByteVector table(4096);
    for (const std::size_t page : {0u, 1u}) {
        put_number(text, 0xFA + page * 8, page * 12, 4);
        put_number(text, 0xFA + page * 8 + 4, 12, 4);
        put_number(table, page * 12 + 4, sector * 8, 4);
        put_number(table, page * 12 + 8, page == 0 ? 1 : 8, 4);
        const auto at = (page == 0 ? 1 : 8) * sector;
        for (std::size_t i = 0; i < 3; ++i) put_number(text, at + i * 4, sector * (2 + i * 2), 4);
        text[at + sector - 1] = 2;
    }
    return compound_file({{"WordDocument", text}, {"1Table", table}});
}

}  // namespace undershelf::test
