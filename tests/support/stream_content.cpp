// Small ASF and MPEG films.

#include <array>

#include "support/file_parts.hpp"
#include "support/memory_content.hpp"

namespace undershelf::test {

namespace {

using namespace std::string_view_literals;

ByteVector object(std::string_view guid, const ByteVector& fields) {
    ByteVector out;
    append(out, guid);
    append_number(out, fields.size() + 24, 8);
    append(out, fields);
    return out;
}

constexpr auto header_id = "\x30\x26\xb2\x75\x8e\x66\xcf\x11\xa6\xd9\x00\xaa\x00\x62\xce\x6c"sv;
constexpr auto data_id = "\x36\x26\xb2\x75\x8e\x66\xcf\x11\xa6\xd9\x00\xaa\x00\x62\xce\x6c"sv;
constexpr auto description_id = "\x33\x26\xb2\x75\x8e\x66\xcf\x11\xa6\xd9\x00\xaa\x00\x62\xce\x6c"sv;
constexpr auto properties_id = "\xa1\xdc\xab\x8c\x47\xa9\xcf\x11\x8e\xe4\x00\xc0\x0c\x20\x53\x65"sv;
constexpr auto index_id = "\x90\x08\x00\x33\xb1\xe5\xcf\x11\x89\xf4\x00\xa0\xc9\x03\x49\xcb"sv;

constexpr std::size_t packet_size = 600, packets = 24;

/// One payload that begins a unit, one that ends it, and filling.
ByteVector asf_packet(std::size_t number) {
    constexpr std::size_t half = 250;
    ByteVector out{0x82, 0, 0, 0x09, 0x5D};  // several payloads, a byte of padding length
    out.push_back(0);                        // how much is padding, put in below
    append_number(out, number * 40, 4);
    append_number(out, 40, 2);
    out.push_back(0x82);  // two payloads, whose lengths take two bytes
    for (const std::size_t offset : {std::size_t{0}, half}) {
        out.push_back(1);
        append_number(out, number & 255, 1);
        append_number(out, offset, 4);
        out.push_back(8);
        append_number(out, 2 * half, 4);
        append_number(out, number * 40, 4);
        append_number(out, half, 2);
        append(out, libretto(half));
    }
    out[5] = static_cast<std::uint8_t>(packet_size - out.size());
    out.resize(packet_size);
    return out;
}

}  // namespace

ByteVector asf_file() {
    ByteVector data(16), index(16), properties(16), description;
    append_number(data, packets, 8);
    append_number(data, 0x0101, 2);
    for (std::size_t i = 0; i < packets; ++i) append(data, asf_packet(i));
    append_number(index, 10'000'000, 8);
    append_number(index, 1, 4);
    append_number(index, 3, 4);
    for (const std::uint64_t packet : {0, 8, 16}) {
        append_number(index, packet, 4);
        append_number(index, 1, 2);
    }
    for (const std::uint64_t length : {16, 0, 0, 0, 0}) append_number(description, length, 2);
    append(description, "C\0u\0r\0t\0a\0i\0n\0\0\0"sv);
    const auto described = object(description_id, description);
    const auto header_size = 30 + 104 + described.size();
    append_number(properties, header_size + 24 + data.size() + 24 + index.size(), 8);
    for (const std::uint64_t field :
         {std::uint64_t{0}, std::uint64_t{packets}, std::uint64_t{0}, std::uint64_t{0}, std::uint64_t{0}})
        append_number(properties, field, 8);
    for (const std::uint64_t field :
         {std::uint64_t{2}, std::uint64_t{packet_size}, std::uint64_t{packet_size}, std::uint64_t{9000}})
        append_number(properties, field, 4);
    ByteVector header;
    append_number(header, 2, 4);
    append(header, ByteVector{1, 2});
    append(header, object(properties_id, properties));
    append(header, described);
    auto out = object(header_id, header);
    append(out, object(data_id, data));
    append(out, object(index_id, index));
    return out;
}

ByteVector program_stream(std::size_t packs) {
    ByteVector out;
    for (std::size_t i = 0; i < packs; ++i) {
        const auto clock = i * 9000;
        append(out, "\0\0\1\xba"sv);
        const auto part = [&](std::size_t shift, std::size_t mask) {
            return static_cast<std::uint8_t>(clock >> shift & mask);
        };
        out.push_back(static_cast<std::uint8_t>(0x44 | part(30, 7) << 3 | part(28, 3)));
        out.push_back(part(20, 255));
        out.push_back(static_cast<std::uint8_t>(part(15, 31) << 3 | 4 | part(13, 3)));
        out.push_back(part(5, 255));
        out.push_back(static_cast<std::uint8_t>(part(0, 31) << 3 | 4));
        append(out, ByteVector{1, 0, 0, 3, 0xF8});
        if (i == 0) append(out, "\0\0\1\xbb\0\6\x80\0\1\4\xe1\x7f"sv);
        append(out, "\0\0\1\xe0"sv);
        append_number(out, 303, 2, true);
        append(out, ByteVector{0x80, 0, 0});
        append(out, libretto(300));
    }
    append(out, "\0\0\1\xb9"sv);
    return out;
}

ByteVector transport_stream(std::size_t step, std::size_t count) {
    ByteVector out;
    for (std::size_t i = 0; i < count; ++i) {
        out.resize(out.size() + (step == 192 ? 4 : 0));
        append(out, ByteVector{0x47, 1, 0, static_cast<std::uint8_t>(0x10 | (i & 15))});
        append(out, libretto(184));
        out.resize((i + 1) * step);
    }
    return out;
}

ByteVector bare_video(bool ended) {
    ByteVector out;
    append(out, "\0\0\1\xb3\x16\x01\x20\x13\xff\xff\xe0\x18"sv);
    for (std::size_t i = 0; i < 8; ++i) {
        append(out, "\0\0\1\0\0\x0f\xff\xf8"sv);
        for (std::uint8_t slice = 1; slice <= 18; ++slice) {
            append(out, ByteVector{0, 0, 1, slice});
            append(out, libretto(60 + slice));
        }
    }
    if (ended) append(out, "\0\0\1\xb7"sv);
    return out;
}

}  // namespace undershelf::test
