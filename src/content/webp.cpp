// WebP (RFC 9649): a RIFF file whose head tells its length; the pictures in it are decoded by libwebp. Their
// codes take nearly any bytes for a picture, but wrong ones come to an end elsewhere: the last bytes of a
// picture's data must be needed, and enough.

#include <webp/decode.h>
#include <webp/demux.h>

#include <algorithm>
#include <memory>
#include <new>

#include "content/readers.hpp"
#include "content/titles.hpp"

namespace undershelf::content {

namespace {

using namespace std::string_view_literals;

constexpr std::uint64_t bytes_a_pixel = 8;  ///< as they are decoded, and given out
constexpr std::size_t head_bytes = 64;      ///< in which the picture's size is

class WebP final : public FormatReader {
  public:
    bool runs_apart() const override { return true; }
    Recognised recognise(Bytes first) const override {
        return {"webp", first.size() >= 16 && begins_with(first, "RIFF"sv) &&
                                begins_with(first.subspan(8), "WEBPVP8"sv)
                            ? 1.0
                            : 0.0};
    }

    std::string title(Content& content) const override { return exif_title_by(webp_exif, content); }
    InnerDates dates(Content& content) const override { return exif_dates_by(webp_exif, content); }
    Check check(Content& content, const CheckLimits&) const override {
        Check out;
        out.format = "webp";
        out.strength = Strength::fair;
        Cursor at(content);
        const auto length = load<boost::endian::little_uint32_buf_t>(at.peek(8), 4);
        const auto end = length ? 8ull + length->value() + length->value() % 2 : ~0ull;
        if (end > content.size()) return out.fails(content.size(), "it ends before its length says");
        // It is decoded from memory, and its pixels are there as well.
        const auto pixels = pixels_of(at.peek(head_bytes));
        if (end > checks_memory || pixels * bytes_a_pixel > checks_memory - end) return unfinished(out);
        const MemoryClaim memory(end + pixels * bytes_a_pixel);
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
            if (std::uint64_t(frame.width) * std::uint64_t(frame.height) > pixels) {
                WebPDemuxReleaseIterator(&frame);
                return out.fails(12, "a picture in it is larger than it says");
            }
            const char* wrong = what_is_wrong(Bytes(frame.fragment.bytes, frame.fragment.size));
            if (!frame.complete) wrong = "a picture in it is cut off";
            if (wrong) {
                const auto start = static_cast<std::uint64_t>(frame.fragment.bytes - bytes.data());
                WebPDemuxReleaseIterator(&frame);
                return out.fails(start, wrong);
            }
        }
        WebPDemuxReleaseIterator(&frame);
        return out.ends(end);
    }

  private:
    /// Of all of it; none of its pictures has more.
    static std::uint64_t pixels_of(Bytes first) {
        int width = 0, height = 0;
        if (!WebPGetInfo(first.data(), first.size(), &width, &height)) return 0;
        return std::uint64_t(width) * std::uint64_t(height);
    }
    /// Null where the picture takes all of its data, up to the filling that writers leave.
    static const char* what_is_wrong(Bytes data) {
        constexpr std::size_t most_filling = 16;  // bytes; three are the most that was seen
        const std::unique_ptr<WebPIDecoder, decltype(&WebPIDelete)> decoder(
            WebPINewRGB(MODE_RGBA, nullptr, 0, 0), WebPIDelete);
        if (!decoder) throw std::bad_alloc();
        if (data.size() > most_filling) {
            const auto early = WebPIUpdate(decoder.get(), data.data(), data.size() - most_filling);
            if (early == VP8_STATUS_OK) return "its picture data end before their length says";
            if (early != VP8_STATUS_SUSPENDED) return "its picture data make no sense";
        }
        if (WebPIUpdate(decoder.get(), data.data(), data.size()) != VP8_STATUS_OK)
            return "its picture data make no sense";
        return nullptr;
    }
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
