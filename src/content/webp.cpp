// WebP (RFC 9649): a RIFF file whose head tells its length; the pictures in it are decoded by libwebp.

#include <webp/decode.h>
#include <webp/demux.h>

#include <algorithm>
#include <memory>

#include "content/readers.hpp"

namespace undershelf::content {

namespace {

using namespace std::string_view_literals;

constexpr std::uint64_t most_bytes = 256 << 20;     ///< of a file, which is decoded from memory
constexpr std::uint64_t most_pixels = 100'000'000;  ///< four bytes each

class WebP final : public FormatReader {
  public:
    bool runs_apart() const override { return true; }
    Recognised recognise(Bytes first) const override {
        return {"webp", first.size() >= 16 && begins_with(first, "RIFF"sv) &&
                                begins_with(first.subspan(8), "WEBPVP8"sv)
                            ? 1.0
                            : 0.0};
    }

    Check check(Content& content, const CheckLimits&) const override {
        Check out;
        out.format = "webp";
        // Both kinds of its codes take nearly any bytes for a picture.
        out.strength = Strength::weak;
        Cursor at(content);
        const auto length = load<boost::endian::little_uint32_buf_t>(at.peek(8), 4);
        const auto end = length ? 8ull + length->value() + length->value() % 2 : ~0ull;
        if (end > content.size()) return out.fails(content.size(), "it ends before its length says");
        if (end > most_bytes) return unfinished(out);
        ByteVector bytes(static_cast<std::size_t>(end));
        const auto got = content.read(0, bytes);
        if (got < end) return out.fails(got, "bytes of it are missing");
        const WebPData data{bytes.data(), bytes.size()};
        const std::unique_ptr<WebPDemuxer, decltype(&WebPDemuxDelete)> demuxer(WebPDemux(&data),
                                                                               WebPDemuxDelete);
        if (!demuxer) return out.fails(12, "its chunks do not fit together");
        WebPIterator frame;
        bool more = WebPDemuxGetFrame(demuxer.get(), 1, &frame) != 0;
        if (!more) return out.fails(12, "there is no picture in it");
        for (; more; more = WebPDemuxNextFrame(&frame) != 0) {
            if (std::uint64_t(frame.width) * std::uint64_t(frame.height) > most_pixels) {
                WebPDemuxReleaseIterator(&frame);
                return unfinished(out);
            }
            int width = 0, height = 0;
            const std::unique_ptr<std::uint8_t, decltype(&WebPFree)> pixels(
                WebPDecodeRGBA(frame.fragment.bytes, frame.fragment.size, &width, &height), WebPFree);
            if (!pixels || !frame.complete) {
                const auto start = static_cast<std::uint64_t>(frame.fragment.bytes - bytes.data());
                WebPDemuxReleaseIterator(&frame);
                return out.fails(start, "its picture data make no sense");
            }
        }
        WebPDemuxReleaseIterator(&frame);
        return out.ends(end);
    }

  private:
    static Check unfinished(Check& out) {
        out.finished = false;
        return out.fails(0, "it is larger than what is decoded in memory");
    }
};

}  // namespace

const FormatReader& webp() {
    static const WebP reader;
    return reader;
}

}  // namespace undershelf::content
