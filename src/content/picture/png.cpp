// PNG (ISO/IEC 15948): a signature, then chunks of length, type, data and CRC-32 of type and data, up to
// IEND.

#include "content/picture/png.hpp"

#include <fmt/format.h>
#include <zlib.h>

#include <algorithm>
#include <memory>
#include <new>
#include <vector>

#include "content/format.hpp"
#include "content/list.hpp"
#include "content/picture/exif.hpp"
#include "content/picture/picture_details.hpp"
#include "content/titles.hpp"

namespace undershelf::content {

namespace {

using namespace std::string_view_literals;
constexpr auto signature = "\x89PNG\r\n\x1a\n"sv;

struct ChunkHead {
    boost::endian::big_uint32_buf_t length;
    char type[4];
};

/// A stretch of the file that holds a part of the picture's deflate stream.
struct DataChunk {
    std::uint64_t at = 0, length = 0;
};

/// Where in the file the picture's stream, which all of its IDAT chunks make together, stops making sense;
/// nothing when it goes on to the last one's end.
std::optional<std::uint64_t> first_wrong(Content& content, const std::vector<DataChunk>& chunks) {
    z_stream z{};
    if (inflateInit(&z) != Z_OK) throw std::bad_alloc();
    const std::unique_ptr<z_stream, decltype(&inflateEnd)> end(&z, inflateEnd);
    ByteVector room(64 << 10);
    for (const auto& chunk : chunks) {
        PartOfContent data(content, chunk.at, chunk.length);
        for (Cursor at(data); at.at() < chunk.length;) {
            const auto part = at.take(Cursor::window);
            if (part.empty()) return chunk.at + at.at();
            z.next_in = const_cast<Bytef*>(part.data());
            z.avail_in = static_cast<uInt>(part.size());
            for (int said = Z_OK; z.avail_in > 0;) {
                z.next_out = room.data();
                z.avail_out = static_cast<uInt>(room.size());
                said = inflate(&z, Z_NO_FLUSH);
                // At its end only its sum is left to be wrong, which tells no place.
                if (said == Z_STREAM_END || (said == Z_DATA_ERROR && z.msg == "incorrect data check"sv))
                    return std::nullopt;
                if (said != Z_OK) return chunk.at + at.at() - z.avail_in;
            }
        }
    }
    return std::nullopt;
}

/// The chunks at its start, until `visit` says false.
void png_chunks(Content& content, const std::function<bool(std::string_view type, Content& data)>& visit) {
    constexpr std::size_t head_size = 8;
    for (std::uint64_t at = signature.size(); at < most_tags;) {
        const auto head = tag_bytes(content, at, head_size);
        if (head.size() < head_size) break;
        const std::uint64_t length = load<boost::endian::big_uint32_buf_t>(head)->value();
        PartOfContent data(content, at + head_size, length);
        if (!visit(text_of(Bytes(head).subspan(4)), data)) break;
        at += head_size + length + 4;
    }
}

/// A `Title` text chunk (PNG, 11.3.4), else Exif (PNG, 11.3.3.7).
std::string png_title(Content& content) {
    std::string title, camera;
    png_chunks(content, [&](std::string_view type, Content& data) {
        if (type == "tEXt") {
            const auto text = tag_bytes(data, 0, std::min<std::uint64_t>(data.size(), 512));
            if (begins_with(text, "Title\0"sv)) title = as_title(from_latin_1(Bytes(text).subspan(6)));
        }
        if (type == "eXIf") camera = exif_title(data);
        return title.empty();
    });
    return title.empty() ? camera : title;
}

/// Exif, else when the picture was last changed (`tIME`, 11.3.5.1).
InnerDates png_dates(Content& content) {
    InnerDates exif, changed;
    png_chunks(content, [&](std::string_view type, Content& data) {
        if (type == "eXIf") exif = exif_dates(data);
        if (type == "tIME") {
            Cursor at(data);
            const auto b = at.take(7);
            if (b.size() == 7)
                changed = {{},
                           time_from_civil({b[0] << 8 | b[1], b[2], b[3], b[4], b[5], b[6]}, 0),
                           "in the picture's head"};
        }
        return true;
    });
    return exif.empty() ? changed : exif;
}

class Png final : public FormatReader {
  public:
    Recognised recognise(Bytes first) const override {
        return {"png", begins_with(first, signature) ? 1.0 : 0.0};
    }

    std::string title(Content& content) const override { return png_title(content); }
    InnerDates dates(Content& content) const override { return png_dates(content); }
    ContentDetails details(Content& content) const override { return png_details(content); }
    Check check(Content& content, const CheckLimits&) const override {
        Check out;
        out.format = "png";
        out.strength = Strength::strong;
        std::vector<DataChunk> picture;
        // The sum of a chunk tells that it is wrong, what it holds tells where.
        const auto fails_within = [&](std::uint64_t start, std::uint64_t otherwise, std::string why) {
            const bool data = !picture.empty() && picture.back().at == start + sizeof(ChunkHead);
            return out.fails(data ? first_wrong(content, picture).value_or(otherwise) : start,
                             std::move(why));
        };
        Cursor at(content, signature.size());
        for (bool first = true;; first = false) {
            const auto start = at.at();
            const auto head = at.take_structure<ChunkHead>();
            if (!head) return out.fails(start, "it ends before its last chunk");
            const std::string_view type(head->type, 4);
            if (!is_type(type) || head->length.value() > 0x7FFFFFFF || first != (type == "IHDR"))
                return out.fails(start, "no chunk is where one should be");
            if (type == "IDAT") picture.push_back({at.at(), head->length.value()});
            auto crc = crc32(0, reinterpret_cast<const Bytef*>(head->type), 4);
            for (std::uint64_t left = head->length.value(); left > 0;) {
                const auto part =
                    at.take(static_cast<std::size_t>(std::min<std::uint64_t>(left, Cursor::window)));
                if (part.empty())
                    return fails_within(start, at.at(),
                                        fmt::format("the data of its {} chunk end early", type));
                crc = crc32(crc, part.data(), static_cast<uInt>(part.size()));
                left -= part.size();
            }
            const auto stored = at.take_structure<boost::endian::big_uint32_buf_t>();
            if (!stored) return fails_within(start, at.at(), fmt::format("its {} chunk is cut off", type));
            if (stored->value() != crc)
                return fails_within(start, start,
                                    fmt::format("the checksum of its {} chunk does not hold", type));
            out.proven_to = at.at();
            if (type == "IEND") return out.ends(at.at());
        }
    }

  private:
    static bool is_type(std::string_view type) {
        return type.find_first_not_of("ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz") ==
               std::string_view::npos;
    }
};

constexpr Format rows[] = {
    {.word = "png",
     .name = "PNG picture",
     .kind = Kind::picture,
     .extensions = " png ",
     .family = "png",
     .strength = Strength::strong,
     .delay = 64 * KiB,
     .filling = Filling::dense,
     .marks = "\x89P"sv},
};

}  // namespace

const FormatReader& png() {
    static const Png reader;
    return reader;
}

FormatRows png_formats() {
    return {rows, &png()};
}

}  // namespace undershelf::content
