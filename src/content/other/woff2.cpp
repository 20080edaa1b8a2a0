// WOFF 2 fonts (W3C, WOFF File Format 2.0): a directory without offsets and one Brotli stream (RFC 7932) of
// all tables. Nothing in it is summed.

#include <brotli/decode.h>
#include <fmt/format.h>

#include <algorithm>
#include <memory>
#include <new>

#include "content/format.hpp"
#include "content/list.hpp"
#include "content/memory.hpp"

namespace undershelf::content {

namespace {

using namespace std::string_view_literals;
using boost::endian::big_uint16_buf_t;
using boost::endian::big_uint32_buf_t;

struct Woff2Head {
    char signature[4];
    big_uint32_buf_t flavor, length;
    big_uint16_buf_t tables, reserved;
    big_uint32_buf_t sfnt_size, packed;
    big_uint16_buf_t major, minor;
    big_uint32_buf_t metadata, metadata_length, metadata_size, own, own_length;
};
static_assert(sizeof(Woff2Head) == 48);
constexpr std::uint32_t collection = 0x74746366;  ///< 'ttcf'

/// Numbers of several bytes (4.1); nothing when they are cut off or too large.
std::optional<std::uint32_t> base128(Cursor& at) {
    std::uint32_t out = 0;
    for (int i = 0; i < 5; ++i) {
        const auto byte = at.take(1);
        if (byte.empty() || (i == 0 && byte[0] == 0x80) || out >> 25 != 0) return std::nullopt;
        out = out << 7 | (byte[0] & 0x7F);
        if (!(byte[0] & 0x80)) return out;
    }
    return std::nullopt;
}
std::optional<unsigned> number_255(Cursor& at) {
    const auto byte = [&]() -> std::optional<unsigned> {
        const auto one = at.take(1);
        return one.empty() ? std::nullopt : std::optional<unsigned>(one[0]);
    };
    constexpr unsigned word = 253, once_more = 255, twice_more = 254, lowest = 253;
    const auto first = byte();
    if (!first || *first < word) return first;
    const auto second = byte();
    if (!second) return second;
    if (*first == once_more) return *second + lowest;
    if (*first == twice_more) return *second + 2 * lowest;
    const auto third = byte();
    return third ? std::optional<unsigned>(*second << 8 | *third) : third;
}

/// Bytes that a table has in the stream; nothing where its entry is cut off.
std::optional<std::uint64_t> table_in_stream(Cursor& at) {
    const auto flags = at.take(1);
    if (flags.empty()) return std::nullopt;
    constexpr unsigned own_tag = 63, glyf = 10, loca = 11;
    const unsigned tag = flags[0] & 0x3F, version = flags[0] >> 6;
    if (tag == own_tag && at.take(4).size() < 4) return std::nullopt;
    const auto length = base128(at);
    if (!length) return length;
    const bool transformed = tag == glyf || tag == loca ? version != 3 : version != 0;
    return transformed ? base128(at) : length;
}

bool skip_collection(Cursor& at) {
    if (!at.take_structure<big_uint32_buf_t>()) return false;
    const auto fonts = number_255(at);
    for (unsigned i = 0; fonts && i < *fonts; ++i) {
        const auto tables = number_255(at);
        if (!tables || !at.take_structure<big_uint32_buf_t>()) return false;
        for (unsigned j = 0; j < *tables; ++j) {
            if (!number_255(at)) return false;
        }
    }
    return fonts.has_value();
}

constexpr std::uint64_t largest_window = 16 << 20;  ///< RFC 7932, section 9.1

enum class Unpacked : std::uint8_t { whole, broken, missing, too_much };

/// Is the stretch one Brotli stream of `output` bytes?
Unpacked unpack(Content& content, std::uint64_t offset, std::uint64_t size, std::uint64_t output,
                const CheckLimits& limits) {
    if (output > limits.most_output) return Unpacked::too_much;
    const std::unique_ptr<BrotliDecoderState, decltype(&BrotliDecoderDestroyInstance)> decoder(
        BrotliDecoderCreateInstance(nullptr, nullptr, nullptr), &BrotliDecoderDestroyInstance);
    if (!decoder) throw std::bad_alloc();
    const MemoryClaim memory(std::min(output, largest_window));
    Cursor at(content, offset);
    ByteVector room(Cursor::window);
    std::uint64_t got = 0;
    for (auto left = size; left > 0;) {
        const auto part = at.take(static_cast<std::size_t>(std::min<std::uint64_t>(left, Cursor::window)));
        if (part.empty()) return Unpacked::missing;
        left -= part.size();
        auto in = part.size();
        const auto* next = part.data();
        for (;;) {
            auto free = room.size();
            auto* out = room.data();
            const auto result =
                BrotliDecoderDecompressStream(decoder.get(), &in, &next, &free, &out, nullptr);
            got += room.size() - free;
            if (result == BROTLI_DECODER_RESULT_ERROR || got > output) return Unpacked::broken;
            if (result == BROTLI_DECODER_RESULT_SUCCESS)
                return in == 0 && left == 0 && got == output ? Unpacked::whole : Unpacked::broken;
            if (result == BROTLI_DECODER_RESULT_NEEDS_MORE_INPUT) break;
        }
    }
    return Unpacked::broken;
}

class Woff2 final : public FormatReader {
  public:
    Recognised recognise(Bytes first) const override {
        const auto head = load<Woff2Head>(first);
        const bool sane = head && begins_with(first, "wOF2"sv) && head->tables.value() > 0 &&
                          head->length.value() > sizeof(Woff2Head);
        return {"woff2", sane ? 1.0 : 0.0};
    }

    Check check(Content& content, const CheckLimits& limits) const override {
        Check out;
        out.format = "woff2";
        out.strength = Strength::fair;
        Cursor at(content);
        const auto head = *at.take_structure<Woff2Head>();
        const std::uint64_t end = head.length.value(), packed = head.packed.value();
        std::uint64_t output = 0;
        for (unsigned i = 0; i < head.tables.value(); ++i) {
            const auto length = table_in_stream(at);
            if (!length) return out.fails(sizeof(Woff2Head), "its directory makes no sense");
            output += *length;
        }
        if (head.flavor.value() == collection && !skip_collection(at))
            return out.fails(sizeof(Woff2Head), "its directory makes no sense");
        if (end > content.size()) return out.fails(content.size(), "it ends before its length says");
        const auto stream = at.at();
        if (stream > end || packed > end - stream)
            return out.fails(sizeof(Woff2Head), "its lengths contradict each other");
        auto holds = unpack(content, stream, packed, output, limits);
        if (holds == Unpacked::whole && head.metadata_length.value() > 0)
            holds = unpack(content, head.metadata.value(), head.metadata_length.value(),
                           head.metadata_size.value(), limits);
        out.finished = holds != Unpacked::too_much;
        if (holds == Unpacked::missing) return out.fails(stream, "bytes of it are missing");
        if (holds != Unpacked::whole) return out.fails(stream, "its tables do not unpack");
        return ends(content, head, stream + packed, out);
    }

  private:
    /// Metadata and the maker's own data follow, filled up to four bytes each; nothing else does.
    static Check& ends(Content& content, const Woff2Head& head, std::uint64_t tables_end, Check& out) {
        const auto block_end = [](const big_uint32_buf_t& at, const big_uint32_buf_t& length) {
            return length.value() > 0 ? std::uint64_t{at.value()} + length.value() : 0;
        };
        const std::uint64_t end = head.length.value();
        const auto last = std::max({tables_end, block_end(head.metadata, head.metadata_length),
                                    block_end(head.own, head.own_length)});
        if (last > end || end - last >= 4) return out.fails(tables_end, "its lengths contradict each other");
        Cursor behind(content, tables_end);
        if (!behind.pass(end - tables_end)) return out.fails(behind.at(), "bytes of it are missing");
        return out.ends(end);
    }
};

constexpr Format rows[] = {
    {.word = "woff2",
     .name = "WOFF2 font",
     .kind = Kind::other,
     .extensions = " woff2 ",
     .family = "woff2",
     .strength = Strength::fair,
     .delay = 64 * KiB,
     .marks = "wO"sv},
};

}  // namespace

FormatRows woff2_formats() {
    static const Woff2 reader;
    return {rows, &reader};
}

}  // namespace undershelf::content
