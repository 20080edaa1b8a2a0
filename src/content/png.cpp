// PNG (ISO/IEC 15948): a signature, then chunks of length, type, data and CRC-32 of type and data, up to
// IEND.

#include <fmt/format.h>
#include <zlib.h>

#include <algorithm>

#include "content/readers.hpp"

namespace undershelf::content {

namespace {

using namespace std::string_view_literals;
constexpr auto signature = "\x89PNG\r\n\x1a\n"sv;

struct ChunkHead {
    boost::endian::big_uint32_buf_t length;
    char type[4];
};

class Png final : public FormatReader {
  public:
    Recognised recognise(Bytes first) const override {
        return {"png", begins_with(first, signature) ? 1.0 : 0.0};
    }

    Check check(Content& content, const CheckLimits&) const override {
        Check out;
        out.format = "png";
        out.strength = Strength::strong;
        Cursor at(content, signature.size());
        for (bool first = true;; first = false) {
            const auto start = at.at();
            const auto head = at.take_structure<ChunkHead>();
            if (!head) return out.fails(start, "it ends before its last chunk");
            const std::string_view type(head->type, 4);
            if (!is_type(type) || head->length.value() > 0x7FFFFFFF || first != (type == "IHDR"))
                return out.fails(start, "no chunk stands where one should");
            auto crc = crc32(0, reinterpret_cast<const Bytef*>(head->type), 4);
            for (std::uint64_t left = head->length.value(); left > 0;) {
                const auto part =
                    at.take(static_cast<std::size_t>(std::min<std::uint64_t>(left, Cursor::window)));
                if (part.empty())
                    return out.fails(start, fmt::format("the data of its {} chunk end early", type));
                crc = crc32(crc, part.data(), static_cast<uInt>(part.size()));
                left -= part.size();
            }
            const auto stored = at.take_structure<boost::endian::big_uint32_buf_t>();
            if (!stored) return out.fails(start, fmt::format("its {} chunk is cut off", type));
            if (stored->value() != crc)
                return out.fails(start, fmt::format("the checksum of its {} chunk does not hold", type));
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

}  // namespace

const FormatReader& png() {
    static const Png reader;
    return reader;
}

}  // namespace undershelf::content
