// AMR recordings of speech (RFC 4867, 5): a mark, then frames of 20 ms, each with a head of one byte that
// tells its length. Nothing tells how many there are.

#include <array>

#include "content/density.hpp"
#include "content/list.hpp"

namespace undershelf::content {

namespace {

using namespace std::string_view_literals;

constexpr auto narrow_mark = "#!AMR\n"sv, wide_mark = "#!AMR-WB\n"sv;

/// Bytes of a frame by its type, its head among them (3GPP TS 26.101, A.1, and 26.201, A.1); 0 for types that
/// no recording has.
using FrameSizes = std::array<std::uint8_t, 16>;
constexpr FrameSizes narrow_sizes{13, 14, 16, 18, 20, 21, 27, 32, 6, 0, 0, 0, 0, 0, 0, 1};
constexpr FrameSizes wide_sizes{18, 24, 33, 37, 41, 47, 51, 59, 61, 6, 0, 0, 0, 0, 1, 1};

/// The length of the frame that begins with this byte; 0 where none does. A byte of zeros could begin one
/// that was received damaged; it is taken for the filling after the last frame, which is far more usual.
std::size_t frame_size(std::uint8_t head, const FrameSizes& sizes) {
    constexpr std::uint8_t padding = 0x83;  // bits that are 0 in every head (5.3)
    return head != 0 && !(head & padding) ? sizes[head >> 3 & 15] : 0;
}

class Amr final : public FormatReader {
  public:
    bool all_our_own() const override { return true; }
    Recognised recognise(Bytes first) const override {
        const auto mark = mark_of(first);
        if (mark.empty()) return {};
        const bool framed = first.size() == mark.size() || frame_size(first[mark.size()], sizes_of(mark)) > 0;
        return {"amr", framed ? 1.0 : 0.0};
    }

    Check check(Content& content, const CheckLimits&) const override {
        Check out;
        out.format = "amr";
        Cursor at(content);
        const auto mark = mark_of(at.peek(wide_mark.size()));
        const auto& sizes = sizes_of(mark);
        at.go_to(mark.size());
        Density density;
        for (auto head = at.peek(1); !head.empty(); head = at.peek(1)) {
            const auto size = frame_size(head[0], sizes);
            if (size == 0) break;
            if (size > content.size() - at.at()) {
                out.cut = true;
                return out.fails(at.at(), "it ends within a frame");
            }
            if (at.peek(size).size() < size) return out.fails(at.at(), "bytes of it are missing");
            at.go_to(at.at() + size);
            density.add(size);
        }
        out.strength = density.strength();
        if (at.at() == content.size()) return out.ends(at.at());
        const auto next = at.peek(1);
        if (next.empty()) return out.fails(at.at(), "bytes of it are missing");
        return next[0] == 0 ? out.ends(at.at()) : out.fails(at.at(), "no frame is where one should be");
    }

  private:
    static std::string_view mark_of(Bytes first) {
        return begins_with(first, narrow_mark) ? narrow_mark
               : begins_with(first, wide_mark) ? wide_mark
                                               : ""sv;
    }
    static const FrameSizes& sizes_of(std::string_view mark) {
        return mark == wide_mark ? wide_sizes : narrow_sizes;
    }
};

constexpr Format rows[] = {
    {.word = "amr",
     .name = "AMR sound",
     .kind = Kind::audio,
     .extensions = " amr awb ",
     .family = "amr",
     .strength = Strength::fair,
     .delay = 1 * KiB,
     .filling = Filling::dense,
     .marks = "#!"sv},
};

}  // namespace

FormatRows amr_formats() {
    static const Amr reader;
    return {rows, &reader};
}

}  // namespace undershelf::content
