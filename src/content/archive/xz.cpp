// xz (its format, version 1.2): streams of blocks, each with the check that the stream's head names, an index
// of them, and an end; between streams zeros in fours.

#include <lzma.h>

#include <new>

#include "content/archive/members.hpp"
#include "content/format.hpp"
#include "content/list.hpp"
#include "content/memory.hpp"

namespace undershelf::content {

namespace {

using namespace std::string_view_literals;
constexpr auto magic =
    "\xfd"
    "7zXZ\0"sv;
constexpr std::uint64_t most_memory = 256 << 20;  ///< dictionaries of honest files are far smaller
constexpr std::uint64_t first_memory = 1 << 20;   ///< what is more is claimed

class Stream {
  public:
    Stream() {
        if (lzma_stream_decoder(&z, first_memory, 0) != LZMA_OK) throw std::bad_alloc();
    }
    ~Stream() { lzma_end(&z); }
    Stream(const Stream&) = delete;
    Stream& operator=(const Stream&) = delete;
    lzma_stream z = LZMA_STREAM_INIT;
};

class Xz final : public FormatReader {
  public:
    void outline(Content& content, const TakeText& take) const override { archive_outline(content, take); }
    Recognised recognise(Bytes first) const override { return {"xz", begins_with(first, magic) ? 1.0 : 0.0}; }

    Check check(Content& content, const CheckLimits& limits) const override {
        Check out;
        out.format = "xz";
        out.strength = Strength::strong;
        Cursor at(content);
        ByteVector room(64 << 10);
        OutputBound output(limits.most_output);
        MemoryClaim memory;
        for (;;) {
            const auto start = at.at();
            Stream stream;
            auto& z = stream.z;
            for (auto result = LZMA_OK; result != LZMA_STREAM_END;) {
                const auto input = at.peek(Cursor::window);
                z.next_in = input.data();
                z.avail_in = input.size();
                z.next_out = room.data();
                z.avail_out = room.size();
                result = lzma_code(&z, LZMA_RUN);
                if (result == LZMA_MEMLIMIT_ERROR && lzma_memusage(&z) <= most_memory) {
                    memory.grow(lzma_memusage(&z));
                    result = lzma_memlimit_set(&z, lzma_memusage(&z));
                }
                at.go_to(at.at() + input.size() - z.avail_in);
                const bool enough = !output.add(room.size() - z.avail_out, at.at());
                if (result == LZMA_MEM_ERROR) throw std::bad_alloc();
                if (result == LZMA_MEMLIMIT_ERROR || enough) {
                    out.finished = false;
                    return out.fails(
                        start, enough ? yields_too_much : "unpacking it takes more memory than is allowed");
                }
                // Wrong bytes decode to other data, which only the check at the end of a block shows.
                if (result == LZMA_BUF_ERROR || (result == LZMA_OK && input.empty()))
                    return out.fails(start, "its compressed data end early");
                if (result != LZMA_OK && result != LZMA_STREAM_END)
                    return out.fails(start,
                                     "its compressed data make no sense, or their check does not hold");
            }
            if (lzma_get_check(&z) == LZMA_CHECK_NONE) out.strength = Strength::fair;
            out.proven_to = out.strength == Strength::strong ? at.at() : 0;
            const auto end = at.at();
            while (begins_with(at.peek(4), "\0\0\0\0"sv)) at.take(4);
            if (recognise(at.peek(16)).sure == 0) return out.ends(end);
        }
    }
};

constexpr Format rows[] = {
    {.word = "xz",
     .name = "xz archive",
     .kind = Kind::archive,
     .extensions = " xz ",
     .family = "xz",
     .strength = Strength::strong,
     .filling = Filling::dense,
     .marks = "\xfd"
              "7"sv},
};

}  // namespace

FormatRows xz_formats() {
    static const Xz reader;
    return {rows, &reader};
}

}  // namespace undershelf::content
