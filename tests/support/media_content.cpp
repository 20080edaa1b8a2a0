// Small pictures and sounds.

#include <FLAC/stream_encoder.h>

#include <algorithm>
#include <cmath>
#include <cstdio>
#include <memory>
#include <random>
// jpeglib.h needs stdio before it.
#include <jpeglib.h>
#include <webp/encode.h>

#include "support/file_parts.hpp"
#include "support/memory_content.hpp"

namespace undershelf::test {

namespace {
void append_chunk(ByteVector& out, std::string_view type, const ByteVector& data) {
    append_number(out, data.size(), 4, true);
    ByteVector body;
    append(body, type);
    append(body, data);
    append(out, body);
    append_number(out, crc_of(body), 4, true);
}
}  // namespace

ByteVector png_file() {
    constexpr std::size_t side = 40;
    ByteVector out, head, rows;
    append(out, "\x89PNG\r\n\x1a\n");
    append_number(head, side, 4, true);
    append_number(head, side, 4, true);
    append(head, ByteVector{8, 0, 0, 0, 0});
    auto random = random_numbers(1);
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
    auto random = random_numbers(6);
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
    auto random = random_numbers(8);
    for (auto& b : pixels) b = static_cast<std::uint8_t>(random() % 40);
    std::uint8_t* out = nullptr;
    const auto size = WebPEncodeLosslessRGBA(pixels.data(), side, side, side * 4, &out);
    ByteVector bytes(out, out + size);
    WebPFree(out);
    return bytes;
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

}  // namespace undershelf::test
