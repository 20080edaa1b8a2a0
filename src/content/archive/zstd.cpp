// Zstandard (RFC 8878): frames one after the other, skippable ones among them, each of blocks with their
// lengths, and with a checksum of what they yield where the frame's head says so.

#include <zstd.h>

#include <algorithm>
#include <memory>
#include <new>

#include "content/archive/members.hpp"
#include "content/format.hpp"
#include "content/list.hpp"
#include "content/memory.hpp"

namespace undershelf::content {

namespace {

using namespace std::string_view_literals;
constexpr auto magic = "\x28\xb5\x2f\xfd"sv;
constexpr int most_window = 27;  ///< 128 MiB, as log2; what the format's tools accept without being asked

constexpr std::size_t longest_head = 18;
constexpr std::uint64_t block_room = 512 << 10;  ///< of a block, packed and unpacked, and what follows it

/// Bytes that a frame's decoder keeps (RFC 8878, sections 3.1.1.1.1 and 3.1.1.1.2).
std::uint64_t window_of(Bytes head) {
    if (head.size() < 6) return 0;
    const auto descriptor = head[4];
    const bool single_segment = descriptor & 0x20;
    if (!single_segment) {
        const auto base = 1ull << (10 + (head[5] >> 3));
        return base + base / 8 * (head[5] & 7);
    }
    constexpr std::size_t dictionary_bytes[] = {0, 1, 2, 4}, size_bytes[] = {1, 2, 4, 8};
    const std::size_t from = 5 + dictionary_bytes[descriptor & 3], bytes = size_bytes[descriptor >> 6];
    if (head.size() < from + bytes) return 0;
    std::uint64_t size = 0;
    for (std::size_t i = bytes; i-- > 0;) size = size << 8 | head[from + i];
    return bytes == 2 ? size + 256 : size;
}

bool is_skippable(Bytes first) {
    return first.size() >= 8 && first[0] >> 4 == 5 && begins_with(first.subspan(1), "\x2a\x4d\x18"sv);
}

class Zstd final : public FormatReader {
  public:
    void outline(Content& content, const TakeText& take) const override { archive_outline(content, take); }
    Recognised recognise(Bytes first) const override {
        // Of the head's descriptor one bit is reserved.
        return {"zstd", begins_with(first, magic) && first.size() > 4 && !(first[4] & 8) ? 1.0 : 0.0};
    }

    Check check(Content& content, const CheckLimits& limits) const override {
        Check out;
        out.format = "zstd";
        out.strength = Strength::strong;
        Cursor at(content);
        OutputBound output(limits.most_output);
        std::uint64_t uncovered = 0;
        for (auto first = at.peek(16);; first = at.peek(16)) {
            if (is_skippable(first)) {
                const auto length = load<boost::endian::little_uint32_buf_t>(first, 4)->value();
                if (content.size() - at.at() < 8ull + length) return out.fails(at.at(), "a frame is cut off");
                uncovered += length;
                at.go_to(at.at() + 8 + length);
            } else if (recognise(first).sure > 0) {
                if (!(first[4] & 4))
                    out.strength = Strength::weak;  // what does not shrink is stored as it is
                if (!read_frame(at, out, output)) return out;
            } else {
                break;
            }
            if (out.strength == Strength::strong) out.proven_to = at.at();
        }
        out.strength = std::min(out.strength, strong_unless(uncovered, at.at()));
        return out.ends(at.at());
    }

  private:
    static bool read_frame(Cursor& at, Check& out, OutputBound& output) {
        const std::unique_ptr<ZSTD_DCtx, decltype(&ZSTD_freeDCtx)> context(ZSTD_createDCtx(), ZSTD_freeDCtx);
        if (!context) throw std::bad_alloc();
        ZSTD_DCtx_setParameter(context.get(), ZSTD_d_windowLogMax, most_window);
        const auto start = at.at();
        const MemoryClaim memory(std::min(window_of(at.peek(longest_head)), std::uint64_t{1} << most_window) +
                                 block_room);
        ByteVector room(64 << 10);
        for (;;) {
            const auto input = at.peek(Cursor::window);
            ZSTD_inBuffer in{input.data(), input.size(), 0};
            ZSTD_outBuffer room_left{room.data(), room.size(), 0};
            const auto result = ZSTD_decompressStream(context.get(), &room_left, &in);
            at.go_to(at.at() + in.pos);
            if (ZSTD_isError(result)) {
                // Some wrong bytes decode to other data and show later, or in the checksum alone.
                out.fails(start, "its compressed data make no sense, or their checksum does not hold");
                return false;
            }
            if (result == 0) return true;
            if (!output.add(room_left.pos, at.at())) {
                out.finished = false;
                out.fails(at.at(), yields_too_much);
                return false;
            }
            if (input.empty() && room_left.pos == 0) {
                out.fails(at.at(), "its compressed data end early");
                return false;
            }
        }
    }
};

constexpr Format rows[] = {
    {.word = "zstd",
     .name = "Zstandard archive",
     .kind = Kind::archive,
     .extensions = " zst ",
     .family = "zstd",
     .strength = Strength::strong,
     .filling = Filling::dense,
     .marks = "\x28\xb5"sv},
};

}  // namespace

FormatRows zstd_formats() {
    static const Zstd reader;
    return {rows, &reader};
}

}  // namespace undershelf::content
