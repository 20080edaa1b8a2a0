// Raw pictures of cameras that are not built on TIFF: Canon's CIFF, Fujifilm's RAF, Minolta's MRW, Sigma's
// X3F. Their makers publish no specification; what is held here is what readers of all programs rely on:
// directories whose entries are within the file, and the picture inside that is a JPEG.

#include <algorithm>
#include <array>

#include "content/format.hpp"
#include "content/list.hpp"
#include "content/media/media_units.hpp"
#include "content/picture/jpeg.hpp"

namespace undershelf::content {

namespace {

using boost::endian::big_uint16_buf_t;
using boost::endian::big_uint32_buf_t;
using boost::endian::little_uint16_buf_t;
using boost::endian::little_uint32_buf_t;
using namespace std::string_view_literals;

template <class Number>
std::uint64_t number_at(Content& content, std::uint64_t offset) {
    std::array<std::uint8_t, sizeof(Number)> bytes;
    if (content.read(offset, bytes) < bytes.size()) return 0;
    return load<Number>(bytes)->value();
}

/// The reader of one maker's kind.
struct RawKind {
    bool (*begins)(Bytes first);
    Check& (*check)(Content& content, Check& out);
};

bool within(std::uint64_t offset, std::uint64_t size, std::uint64_t whole) {
    return offset <= whole && size <= whole - offset;
}

// CIFF: heaps, each with a directory at its end whose last four bytes tell where it begins.
class Ciff {
  public:
    explicit Ciff(Content& content) : content_(content) {}

    bool heap_holds(std::uint64_t at, std::uint64_t size, int depth) {
        constexpr int most_depth = 16;
        if (size < 6 || depth > most_depth) return false;
        const auto directory = number_at<little_uint32_buf_t>(content_, at + size - 4);
        if (directory > size - 6) return false;
        const auto count = number_at<little_uint16_buf_t>(content_, at + directory);
        constexpr std::uint64_t entry_size = 10;
        if (directory + 2 + count * entry_size > size - 4) return false;
        for (std::uint64_t i = 0; i < count; ++i) {
            const auto entry = at + directory + 2 + i * entry_size;
            const auto tag = number_at<little_uint16_buf_t>(content_, entry);
            constexpr std::uint64_t in_entry = 0x4000, type_bits = 0x3800, heap_1 = 0x2800, heap_2 = 0x3000;
            if (tag & in_entry) continue;
            const auto length = number_at<little_uint32_buf_t>(content_, entry + 2);
            const auto offset = number_at<little_uint32_buf_t>(content_, entry + 6);
            if (++entries_ > most_entries || !within(offset, length, directory)) return false;
            const auto type = tag & type_bits;
            if ((type == heap_1 || type == heap_2) && length > 0 &&
                !heap_holds(at + offset, length, depth + 1))
                return false;
        }
        return true;
    }

  private:
    static constexpr int most_entries = 10000;  ///< of heaps that may overlap
    Content& content_;
    int entries_ = 0;
};

bool begins_ciff(Bytes first) {
    return first.size() >= 26 && begins_with(first, "II"sv) && begins_with(first.subspan(6), "HEAPCCDR"sv);
}
Check& check_ciff(Content& content, Check& out) {
    const auto head = number_at<little_uint32_buf_t>(content, 2);
    if (head < 14 || head > content.size()) return out.fails(0, "its head makes no sense");
    if (!Ciff(content).heap_holds(head, content.size() - head, 0))
        return out.fails(head, "its directory, which ends the file, makes no sense");
    return readable(content, 0, content.size()) ? out.ends(content.size())
                                                : out.fails(head, "bytes of it are missing");
}

bool begins_raf(Bytes first) {
    return begins_with(first, "FUJIFILMCCD-RAW "sv);
}
/// At 84: offset and length of a JPEG picture, of the sensor's description and of its data.
Check& check_raf(Content& content, Check& out) {
    constexpr std::uint64_t places = 84;
    std::uint64_t end = places + 24;
    for (std::uint64_t i = 0; i < 3; ++i) {
        const auto at = number_at<big_uint32_buf_t>(content, places + i * 8);
        const auto size = number_at<big_uint32_buf_t>(content, places + i * 8 + 4);
        if (!within(at, size, content.size())) return out.fails(content.size(), "it ends before its picture");
        if (size > 0) end = std::max(end, at + size);
        if (i != 0 || size == 0) continue;
        PartOfContent picture(content, at, size);
        if (!jpeg().check(picture, {}).complete) return out.fails(at, "a small picture in it makes no sense");
    }
    return readable(content, 0, end) ? out.ends(end) : out.fails(places, "bytes of it are missing");
}

bool begins_mrw(Bytes first) {
    return begins_with(first, "\0MRM"sv);
}
/// Blocks of a name, a length and a body, up to where the head says that the sensor's data begin.
Check& check_mrw(Content& content, Check& out) {
    const auto data = 8 + number_at<big_uint32_buf_t>(content, 4);
    if (data > content.size()) return out.fails(0, "it ends before its picture");
    std::uint64_t width = 0, height = 0, bits = 0;
    for (std::uint64_t at = 8; at < data;) {
        const auto name = number_at<big_uint32_buf_t>(content, at);
        const auto size = number_at<big_uint32_buf_t>(content, at + 4);
        if (name == 0 || name >> 24 != 0 || !within(at + 8, size, data))
            return out.fails(at, "no block is where one should be");
        if (name == 0x00505244) {  // PRD: the picture's measures
            height = number_at<big_uint16_buf_t>(content, at + 16);
            width = number_at<big_uint16_buf_t>(content, at + 18);
            bits = number_at<big_uint16_buf_t>(content, at + 24) >> 8;
        }
        at += 8 + size;
    }
    const auto size = width * height * bits / 8;
    if (!within(data, size, content.size())) return out.fails(content.size(), "it ends before its picture");
    return readable(content, 0, data + size) ? out.ends(data + size)
                                             : out.fails(8, "bytes of it are missing");
}

bool begins_x3f(Bytes first) {
    return begins_with(first, "FOVb"sv);
}
/// The last four bytes tell where the directory is: offset, length and kind of each part.
Check& check_x3f(Content& content, Check& out) {
    const auto size = content.size();
    const auto directory = size < 4 ? size : number_at<little_uint32_buf_t>(content, size - 4);
    if (!within(directory, 16, size) ||
        number_at<big_uint32_buf_t>(content, directory) != 0x53454364)  // SECd
        return out.fails(4, "its directory, which ends the file, is missing");
    const auto count = number_at<little_uint32_buf_t>(content, directory + 8);
    if (count > (size - directory) / 12) return out.fails(4, "its directory makes no sense");
    for (std::uint64_t i = 0; i < count; ++i) {
        const auto entry = directory + 12 + i * 12;
        if (!within(number_at<little_uint32_buf_t>(content, entry),
                    number_at<little_uint32_buf_t>(content, entry + 4), size))
            return out.fails(4, "its directory makes no sense");
    }
    return readable(content, 0, size) ? out.ends(size) : out.fails(4, "bytes of it are missing");
}

constexpr std::array<RawKind, 4> kinds{
    {{begins_ciff, check_ciff}, {begins_raf, check_raf}, {begins_mrw, check_mrw}, {begins_x3f, check_x3f}}};

class Raw final : public FormatReader {
  public:
    Recognised recognise(Bytes first) const override { return {"raw", kind_of(first) ? 1.0 : 0.0}; }

    Check check(Content& content, const CheckLimits&) const override {
        Check out;
        out.format = "raw";
        out.strength = Strength::weak;
        Cursor start(content);
        const auto* kind = kind_of(start.peek(64));
        return kind ? kind->check(content, out) : out.fails(0, "its head makes no sense");
    }

  private:
    static const RawKind* kind_of(Bytes first) {
        const auto it =
            std::find_if(kinds.begin(), kinds.end(), [&](const RawKind& k) { return k.begins(first); });
        return it == kinds.end() ? nullptr : &*it;
    }
};

constexpr Format rows[] = {
    {.word = "raw",
     .name = "raw picture",
     .kind = Kind::picture,
     .extensions = " dng nef arw cr2 rw2 orf raf crw cr3 pef srw mrw x3f ",
     .family = "tiff",
     .strength = Strength::weak,
     .delay = 64 * KiB,
     .holds_files = true,
     .marks = "IIMMFU\0MFO"sv},
};

}  // namespace

FormatRows raw_formats() {
    static const Raw reader;
    return {rows, &reader};
}

}  // namespace undershelf::content
