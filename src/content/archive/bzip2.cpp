// bzip2: streams one after the other, each of blocks that begin, at any bit, with 0x314159265359 and carry a
// CRC-32 of what they yield; the stream ends with a CRC over those.

#include <bzlib.h>

#include <algorithm>
#include <new>

#include "content/archive/members.hpp"
#include "content/format.hpp"
#include "content/list.hpp"

namespace undershelf::content {

namespace {

using namespace std::string_view_literals;

class Stream {
  public:
    Stream() {
        if (BZ2_bzDecompressInit(&z, 0, 0) != BZ_OK) throw std::bad_alloc();
    }
    ~Stream() { BZ2_bzDecompressEnd(&z); }
    Stream(const Stream&) = delete;
    Stream& operator=(const Stream&) = delete;
    bz_stream z{};
};

/// Where the last block begins that starts before `end`: damage shows at the end of a block only.
std::uint64_t last_block(Content& content, std::uint64_t start, std::uint64_t end) {
    constexpr std::uint64_t magic = 0x314159265359, mask = (1ull << 48) - 1;
    constexpr std::uint64_t longest_block = 1
                                            << 20;  // 900,000 bytes and a little more when they do not shrink
    Cursor at(content, end - start > 2 * longest_block ? end - 2 * longest_block : start);
    auto out = start;
    std::uint64_t bits = 0;
    while (at.at() < end) {
        const auto offset = at.at();
        const auto part =
            at.take(static_cast<std::size_t>(std::min<std::uint64_t>(end - offset, Cursor::window)));
        if (part.empty()) break;
        for (std::size_t i = 0; i < part.size(); ++i) {
            for (int bit = 7; bit >= 0; --bit) {
                bits = (bits << 1 | (part[i] >> bit & 1)) & mask;
                if (bits == magic && offset + i >= start + 5) out = offset + i - 5;
            }
        }
    }
    return out;
}

class Bzip2 final : public FormatReader {
  public:
    void outline(Content& content, const TakeText& take) const override { archive_outline(content, take); }
    Recognised recognise(Bytes first) const override {
        const bool begins =
            begins_with(first, "BZh"sv) && first.size() >= 10 && first[3] >= '1' && first[3] <= '9';
        if (!begins) return {};
        const auto behind = first.subspan(4);
        return {"bzip2", begins_with(behind, "1AY&SY"sv) || begins_with(behind, "\x17\x72\x45\x38\x50\x90"sv)
                             ? 1.0
                             : 0.0};
    }

    Check check(Content& content, const CheckLimits& limits) const override {
        Check out;
        out.format = "bzip2";
        out.strength = Strength::strong;
        Cursor at(content);
        ByteVector room(64 << 10);
        OutputBound output(limits.most_output);
        do {
            const auto start = at.at();
            Stream stream;
            auto& z = stream.z;
            for (int result = BZ_OK; result != BZ_STREAM_END;) {
                const auto input = at.peek(Cursor::window);
                z.next_in = reinterpret_cast<char*>(const_cast<std::uint8_t*>(input.data()));
                z.avail_in = static_cast<unsigned>(input.size());
                z.next_out = reinterpret_cast<char*>(room.data());
                z.avail_out = static_cast<unsigned>(room.size());
                result = BZ2_bzDecompress(&z);
                at.go_to(at.at() + input.size() - z.avail_in);
                const auto yield = room.size() - z.avail_out;
                if (result == BZ_MEM_ERROR) throw std::bad_alloc();
                if (result != BZ_OK && result != BZ_STREAM_END)
                    return out.fails(last_block(content, start, at.at()), "a block's checksum does not hold");
                if (!output.add(yield, at.at())) {
                    out.finished = false;
                    return out.fails(at.at(), yields_too_much);
                }
                if (result == BZ_OK && input.empty() && yield == 0)
                    return out.fails(last_block(content, start, at.at()), "its compressed data end early");
            }
            out.proven_to = at.at();
        } while (recognise(at.peek(16)).sure > 0);
        return out.ends(at.at());
    }
};

constexpr Format rows[] = {
    {.word = "bzip2",
     .name = "bzip2 archive",
     .kind = Kind::archive,
     .extensions = " bz2 ",
     .family = "bzip2",
     .strength = Strength::strong,
     .filling = Filling::dense,
     .marks = "BZ"sv},
};

}  // namespace

FormatRows bzip2_formats() {
    static const Bzip2 reader;
    return {rows, &reader};
}

}  // namespace undershelf::content
