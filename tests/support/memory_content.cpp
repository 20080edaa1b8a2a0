#include "support/memory_content.hpp"

#include <archive.h>
#include <archive_entry.h>
#include <bzlib.h>
#include <fmt/format.h>
#include <lzma.h>
#include <sqlite3.h>
#include <zlib.h>
#include <zstd.h>

#include <algorithm>
#include <memory>
#include <random>

#include "support/file_parts.hpp"

namespace undershelf::test {

namespace {
unsigned edition_now = 0;
}  // namespace

Edition::Edition(int number) {
    edition_now = static_cast<unsigned>(number);
}
Edition::~Edition() {
    edition_now = 0;
}

std::mt19937 random_numbers(unsigned seed) {
    return std::mt19937(seed + 1000 * edition_now);
}

ByteVector libretto(std::size_t length) {
    auto random = random_numbers(4);
    std::string out;
    for (int line = 0; out.size() < length; ++line)
        out += fmt::format("{:04}: the {} marionette bows {} times.\n", line, random(), random() % 1000);
    return {out.begin(), out.begin() + static_cast<std::ptrdiff_t>(length)};
}

ByteVector gzip_file(const ByteVector& content) {
    return deflated(content, MAX_WBITS + 16);
}

ByteVector bzip2_file(const ByteVector& content) {
    ByteVector out(content.size() + content.size() / 50 + 1000);
    auto size = static_cast<unsigned>(out.size());
    BZ2_bzBuffToBuffCompress(reinterpret_cast<char*>(out.data()), &size,
                             reinterpret_cast<char*>(const_cast<std::uint8_t*>(content.data())),
                             static_cast<unsigned>(content.size()), 1, 0, 0);
    out.resize(size);
    return out;
}

ByteVector xz_file(const ByteVector& content, bool with_check) {
    ByteVector out(lzma_stream_buffer_bound(content.size()));
    std::size_t size = 0;
    lzma_easy_buffer_encode(6, with_check ? LZMA_CHECK_CRC64 : LZMA_CHECK_NONE, nullptr, content.data(),
                            content.size(), out.data(), &size, out.size());
    out.resize(size);
    return out;
}

ByteVector zstd_file(const ByteVector& content, bool with_checksum) {
    const std::unique_ptr<ZSTD_CCtx, decltype(&ZSTD_freeCCtx)> context(ZSTD_createCCtx(), ZSTD_freeCCtx);
    ZSTD_CCtx_setParameter(context.get(), ZSTD_c_checksumFlag, with_checksum);
    ByteVector out(ZSTD_compressBound(content.size()));
    out.resize(ZSTD_compress2(context.get(), out.data(), out.size(), content.data(), content.size()));
    return out;
}

ByteVector pdf_file() {
    ByteVector out;
    std::vector<std::size_t> objects;
    append(out, "%PDF-1.4\n%\xe2\xe3\xcf\xd3\n");
    const auto object = [&](const std::string& text) {
        objects.push_back(out.size());
        append(out, fmt::format("{} 0 obj\n{}", objects.size(), text));
    };
    object("<< /Type /Catalog /Pages 2 0 R >>\nendobj\n");
    object("<< /Type /Pages /Kids [] /Count 0 >>\nendobj\n");
    const auto data = deflated(libretto(6000), MAX_WBITS);
    object(fmt::format("<< /Length {} /Filter /FlateDecode >>\nstream\n", data.size()));
    append(out, data);
    append(out, "\nendstream\nendobj\n");
    const auto table = out.size();
    append(out, fmt::format("xref\n0 {}\n0000000000 65535 f \n", objects.size() + 1));
    for (const auto at : objects) append(out, fmt::format("{:010} 00000 n \n", at));
    append(out, fmt::format("trailer\n<< /Size {} /Root 1 0 R >>\nstartxref\n{}\n%%EOF\n", objects.size() + 1,
                            table));
    return out;
}

ByteVector tar_file(const TarParts& parts) {
    ByteVector out;
    const auto add_head = [&](const std::string& name, std::size_t size, char type, std::uint8_t more) {
        ByteVector head(512);
        const auto put = [&](std::size_t at, const std::string& text) {
            std::copy(text.begin(), text.end(), head.begin() + static_cast<std::ptrdiff_t>(at));
        };
        put(0, name);
        put(124, fmt::format("{:011o}", size));
        put(148, "        ");
        head[156] = static_cast<std::uint8_t>(type);
        put(257, "ustar");
        head[482] = more;
        unsigned sum = 0;
        for (const auto b : head) sum += b;
        put(148, fmt::format("{:06o}", sum));
        head[154] = 0;
        append(out, head);
    };
    const auto fill = [&] { out.resize((out.size() + 511) / 512 * 512); };
    for (int i = 0; i < 3; ++i) {
        if (parts.extended) {
            const std::string record = "13 size=1500\n";
            add_head("next", record.size(), 'x', 0);
            append(out, record);
            fill();
        }
        add_head(fmt::format("act {}.txt", i), parts.extended ? 0 : 1500, parts.holes ? 'S' : '0',
                 parts.holes);
        if (parts.holes) {
            out.resize(out.size() + 2 * 512, 'm');
            out[out.size() - 8] = 0;
        }
        append(out, libretto(1500));
        fill();
    }
    out.resize(10240);
    return out;
}

ByteVector sqlite_file() {
    sqlite3* db = nullptr;
    sqlite3_open(":memory:", &db);
    sqlite3_exec(db,
                 "CREATE TABLE props(id INTEGER PRIMARY KEY, name TEXT); CREATE INDEX names ON props(name)",
                 nullptr, nullptr, nullptr);
    for (int i = 0; i < 400; ++i)
        sqlite3_exec(
            db,
            fmt::format("INSERT INTO props VALUES({}, 'prop {} of the tin prince')", i, i * 7919 % 400)
                .c_str(),
            nullptr, nullptr, nullptr);
    sqlite3_int64 size = 0;
    auto* bytes = sqlite3_serialize(db, "main", &size, 0);
    ByteVector out(bytes, bytes + size);
    sqlite3_free(bytes);
    sqlite3_close(db);
    return out;
}

ByteVector seven_zip_file(bool packed) {
    ByteVector out(64 << 10);
    std::size_t used = 0;
    auto* a = archive_write_new();
    archive_write_set_format_7zip(a);
    if (!packed) archive_write_set_options(a, "7zip:compression=store");
    archive_write_open_memory(a, out.data(), out.size(), &used);
    const auto text = libretto(7000);
    auto* entry = archive_entry_new();
    archive_entry_set_pathname(entry, "act 1.txt");
    archive_entry_set_size(entry, static_cast<la_int64_t>(text.size()));
    archive_entry_set_filetype(entry, AE_IFREG);
    archive_write_header(a, entry);
    archive_write_data(a, text.data(), text.size());
    archive_entry_free(entry);
    archive_write_close(a);
    archive_write_free(a);
    out.resize(used);
    return out;
}

ByteVector cab_file() {
    // One folder of one block, stored, with one file in it.
    const auto text = libretto(5000);
    ByteVector file, block;
    append_number(file, text.size(), 4);
    append_number(file, 0, 4);
    append_number(file, 0, 2);
    append_number(file, 0x5A64, 2);
    append_number(file, 0x5000, 2);
    append_number(file, 0x20, 2);
    append(file, std::string("act.txt") + '\0');
    append_number(block, text.size(), 2);
    append_number(block, text.size(), 2);
    // The sum of [MS-CAB] 3.1: words of the data, the last bytes of them the other way round, then of the
    // lengths.
    const auto sum = [](const ByteVector& bytes, std::uint32_t seed) {
        std::size_t at = 0;
        for (; at + 4 <= bytes.size(); at += 4)
            seed ^= bytes[at] | bytes[at + 1] << 8 | bytes[at + 2] << 16 | std::uint32_t{bytes[at + 3]} << 24;
        std::uint32_t last = 0;
        for (; at < bytes.size(); ++at) last = last << 8 | bytes[at];
        return seed ^ last;
    };
    const std::uint32_t head_size = 36 + 8, data_at = head_size + static_cast<std::uint32_t>(file.size());
    ByteVector out;
    append(out, "MSCF");
    append_number(out, 0, 4);
    append_number(out, data_at + 8 + text.size(), 4);
    append_number(out, 0, 4);
    append_number(out, head_size, 4);
    append_number(out, 0, 4);
    append(out, ByteVector{3, 1, 1, 0, 1, 0, 0, 0, 0, 0, 0, 0});
    append_number(out, data_at, 4);
    append_number(out, 1, 2);
    append_number(out, 0, 2);
    append(out, file);
    append_number(out, sum(block, sum(text, 0)), 4);
    append(out, block);
    append(out, text);
    return out;
}

ByteVector rar_file() {
    ByteVector out;
    append(out, ByteVector{'R', 'a', 'r', '!', 0x1A, 7, 1, 0});
    const auto block = [&](const ByteVector& body, const ByteVector& data) {
        ByteVector summed{static_cast<std::uint8_t>(body.size())};
        append(summed, body);
        append_number(out, crc_of(summed), 4);
        append(out, summed);
        append(out, data);
    };
    const auto text = libretto(100);
    block({1, 0, 0}, {});
    block({3, 2, 100, 0, 100, 0, 0, 0, 1, 'a'}, text);
    block({5, 0, 0}, {});
    return out;
}

ByteVector zip_file(const std::vector<ZipMember>& members) {
    ByteVector out, directory;
    for (const auto& m : members) {
        const auto data = m.deflated ? deflated(m.content, -MAX_WBITS) : m.content;
        const auto crc = crc_of(m.content);
        ByteVector head;
        append_number(head, 20, 2);
        append_number(head, m.sizes_follow ? 8 : 0, 2);
        append_number(head, m.deflated ? 8 : 0, 2);
        append_number(head, 0x5A645000, 4);
        for (const auto n : {std::uint64_t{crc}, std::uint64_t{data.size()}, std::uint64_t{m.content.size()}})
            append_number(head, n, 4);
        append_number(head, m.name.size(), 2);
        append_number(head, 0, 2);
        append(directory, ByteVector{'P', 'K', 1, 2, 20, 0});
        append(directory, head);
        append(directory, ByteVector(10, 0));
        append_number(directory, out.size(), 4);
        append(directory, m.name);
        if (m.sizes_follow) std::fill_n(head.begin() + 10, 12, std::uint8_t{0});
        append(out, ByteVector{'P', 'K', 3, 4});
        append(out, head);
        append(out, m.name);
        append(out, data);
        if (!m.sizes_follow) continue;
        append(out, ByteVector{'P', 'K', 7, 8});
        for (const auto n : {std::uint64_t{crc}, std::uint64_t{data.size()}, std::uint64_t{m.content.size()}})
            append_number(out, n, 4);
    }
    const auto offset = out.size();
    append(out, directory);
    append(out, ByteVector{'P', 'K', 5, 6, 0, 0, 0, 0});
    append_number(out, members.size(), 2);
    append_number(out, members.size(), 2);
    append_number(out, directory.size(), 4);
    append_number(out, offset, 4);
    append_number(out, 0, 2);
    return out;
}

}  // namespace undershelf::test
