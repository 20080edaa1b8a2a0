#include "support/memory_content.hpp"

#include <FLAC/stream_encoder.h>
#include <archive.h>
#include <archive_entry.h>
#include <bzlib.h>
#include <fmt/format.h>
#include <lzma.h>
#include <sqlite3.h>
#include <webp/encode.h>
#include <zlib.h>
#include <zstd.h>

#include <algorithm>
#include <cmath>
#include <cstdio>
// jpeglib.h needs stdio before it.
#include <jpeglib.h>

#include <memory>
#include <random>

#include "support/disk_image.hpp"

namespace undershelf::test {

namespace {

void append(ByteVector& out, std::string_view text) {
    out.insert(out.end(), text.begin(), text.end());
}
void append(ByteVector& out, const ByteVector& bytes) {
    out.insert(out.end(), bytes.begin(), bytes.end());
}
void append_number(ByteVector& out, std::uint64_t value, int size, bool big_endian = false) {
    const auto at = out.size();
    out.resize(at + static_cast<std::size_t>(size));
    put_number(out, at, value, size, big_endian);
}
std::uint32_t crc_of(const ByteVector& bytes) {
    return static_cast<std::uint32_t>(crc32(0, bytes.data(), static_cast<uInt>(bytes.size())));
}

ByteVector deflated(const ByteVector& content, int window_bits) {
    z_stream z{};
    deflateInit2(&z, 6, Z_DEFLATED, window_bits, 8, Z_DEFAULT_STRATEGY);
    ByteVector out(deflateBound(&z, content.size()) + 64);
    z.next_in = const_cast<Bytef*>(content.data());
    z.avail_in = static_cast<uInt>(content.size());
    z.next_out = out.data();
    z.avail_out = static_cast<uInt>(out.size());
    deflate(&z, Z_FINISH);
    out.resize(z.total_out);
    deflateEnd(&z);
    return out;
}

void append_chunk(ByteVector& out, std::string_view type, const ByteVector& data) {
    append_number(out, data.size(), 4, true);
    ByteVector body;
    append(body, type);
    append(body, data);
    append(out, body);
    append_number(out, crc_of(body), 4, true);
}

}  // namespace

ByteVector libretto(std::size_t length) {
    std::mt19937 random(4);
    std::string out;
    for (int line = 0; out.size() < length; ++line)
        out += fmt::format("{:04}: the {} marionette bows {} times.\n", line, random(), random() % 1000);
    return {out.begin(), out.begin() + static_cast<std::ptrdiff_t>(length)};
}

ByteVector png_file() {
    constexpr std::size_t side = 40;
    ByteVector out, head, rows;
    append(out, "\x89PNG\r\n\x1a\n");
    append_number(head, side, 4, true);
    append_number(head, side, 4, true);
    append(head, ByteVector{8, 0, 0, 0, 0});
    std::mt19937 random(1);
    for (std::size_t i = 0; i < side * (side + 1); ++i)
        rows.push_back(i % (side + 1) == 0 ? 0 : static_cast<std::uint8_t>(random()));
    append_chunk(out, "IHDR", head);
    const auto data = deflated(rows, MAX_WBITS);
    const auto half = data.begin() + static_cast<std::ptrdiff_t>(data.size() / 2);
    append_chunk(out, "IDAT", {data.begin(), half});
    append_chunk(out, "IDAT", {half, data.end()});
    append_chunk(out, "IEND", {});
    return out;
}

ByteVector gif_file() {
    // 20 x 20 pixels of two colours, in codes of three bits with a clear code every two pixels.
    ByteVector out;
    append(out, "GIF89a");
    append_number(out, 20, 2);
    append_number(out, 20, 2);
    append(out, ByteVector{0x80, 0, 0, 0, 0, 0, 255, 255, 255});
    append(out, ByteVector{0x21, 0xF9, 4, 0, 0, 0, 0, 0});
    out.push_back(0x2C);
    for (const int n : {0, 0, 20, 20}) append_number(out, static_cast<std::uint64_t>(n), 2);
    out.push_back(0);
    out.push_back(2);
    ByteVector codes;
    std::uint32_t bits = 0, count = 0;
    const auto put = [&](std::uint32_t code) {
        bits |= code << count;
        count += 3;
        for (; count >= 8; count -= 8, bits >>= 8) codes.push_back(static_cast<std::uint8_t>(bits));
    };
    for (int i = 0; i < 400; ++i) {
        if (i % 2 == 0) put(4);
        put(static_cast<std::uint32_t>(i / 7 % 2));
    }
    put(5);
    codes.push_back(static_cast<std::uint8_t>(bits));
    for (std::size_t at = 0; at < codes.size(); at += 255) {
        const auto n = std::min<std::size_t>(255, codes.size() - at);
        out.push_back(static_cast<std::uint8_t>(n));
        out.insert(out.end(), codes.begin() + static_cast<std::ptrdiff_t>(at),
                   codes.begin() + static_cast<std::ptrdiff_t>(at + n));
    }
    out.push_back(0);
    out.push_back(0x3B);
    return out;
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

ByteVector jpeg_file() {
    constexpr unsigned side = 96;
    jpeg_compress_struct c{};
    jpeg_error_mgr errors{};
    c.err = jpeg_std_error(&errors);
    jpeg_create_compress(&c);
    unsigned char* out = nullptr;
    unsigned long size = 0;
    jpeg_mem_dest(&c, &out, &size);
    c.image_width = c.image_height = side;
    c.input_components = 3;
    c.in_color_space = JCS_RGB;
    jpeg_set_defaults(&c);
    jpeg_start_compress(&c, TRUE);
    std::mt19937 random(6);
    ByteVector row(side * 3);
    while (c.next_scanline < side) {
        for (auto& b : row) b = static_cast<std::uint8_t>(random() % 120 + c.next_scanline);
        JSAMPROW rows[] = {row.data()};
        jpeg_write_scanlines(&c, rows, 1);
    }
    jpeg_finish_compress(&c);
    jpeg_destroy_compress(&c);
    ByteVector bytes(out, out + size);
    std::free(out);
    return bytes;
}

ByteVector webp_file() {
    constexpr int side = 64;
    ByteVector pixels(side * side * 4);
    std::mt19937 random(8);
    for (auto& b : pixels) b = static_cast<std::uint8_t>(random() % 40);
    std::uint8_t* out = nullptr;
    const auto size = WebPEncodeLosslessRGBA(pixels.data(), side, side, side * 4, &out);
    ByteVector bytes(out, out + size);
    WebPFree(out);
    return bytes;
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

ByteVector tar_file() {
    ByteVector out;
    for (int i = 0; i < 3; ++i) {
        ByteVector head(512);
        const auto put = [&](std::size_t at, const std::string& text) {
            std::copy(text.begin(), text.end(), head.begin() + static_cast<std::ptrdiff_t>(at));
        };
        put(0, fmt::format("act {}.txt", i));
        put(124, fmt::format("{:011o}", 1500));
        put(148, "        ");
        put(156, "0");
        put(257, "ustar");
        unsigned sum = 0;
        for (const auto b : head) sum += b;
        put(148, fmt::format("{:06o}", sum));
        head[154] = 0;
        append(out, head);
        append(out, libretto(1500));
        out.resize((out.size() + 511) / 512 * 512);
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

ByteVector seven_zip_file() {
    ByteVector out(64 << 10);
    std::size_t used = 0;
    auto* a = archive_write_new();
    archive_write_set_format_7zip(a);
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

ByteVector ogg_file() {
    ByteVector out;
    for (std::uint32_t number = 0; number < 5; ++number) {
        ByteVector page;
        append(page, "OggS");
        page.push_back(0);
        page.push_back(number == 0 ? 2 : number == 4 ? 4 : 0);
        append_number(page, number * 960ull, 8);
        append_number(page, 4711, 4);
        append_number(page, number, 4);
        append_number(page, 0, 4);
        append(page, ByteVector{2, 255, 45});
        append(page, libretto(300));
        // The checksum as its specification words it, bit by bit.
        std::uint32_t crc = 0;
        for (const auto byte : page) {
            crc ^= std::uint32_t{byte} << 24;
            for (int i = 0; i < 8; ++i) crc = crc << 1 ^ (crc & 0x80000000 ? 0x04C11DB7 : 0);
        }
        put_number(page, 22, crc, 4);
        append(out, page);
    }
    return out;
}

ByteVector flac_file() {
    ByteVector out;
    const std::unique_ptr<FLAC__StreamEncoder, decltype(&FLAC__stream_encoder_delete)> encoder(
        FLAC__stream_encoder_new(), FLAC__stream_encoder_delete);
    constexpr unsigned samples = 6000;
    FLAC__stream_encoder_set_total_samples_estimate(encoder.get(), samples);
    FLAC__stream_encoder_set_channels(encoder.get(), 1);
    FLAC__stream_encoder_set_blocksize(encoder.get(), 1024);
    const auto write = [](const FLAC__StreamEncoder*, const FLAC__byte* bytes, std::size_t count, unsigned,
                          unsigned, void* data) {
        auto& to = *static_cast<ByteVector*>(data);
        to.insert(to.end(), bytes, bytes + count);
        return FLAC__STREAM_ENCODER_WRITE_STATUS_OK;
    };
    FLAC__stream_encoder_init_stream(encoder.get(), write, nullptr, nullptr, nullptr, &out);
    for (unsigned i = 0; i < samples; ++i) {
        const auto sample = static_cast<FLAC__int32>(8000 * std::sin(i * 0.05) + (i * 7919) % 97);
        FLAC__stream_encoder_process_interleaved(encoder.get(), &sample, 1);
    }
    FLAC__stream_encoder_finish(encoder.get());
    // What the encoder would have gone back for: the number of samples, in the head's last 36 bits before its
    // sum.
    put_number(out, 8 + 14, samples, 4, true);
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
