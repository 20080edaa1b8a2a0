// WebP (RFC 9649): a RIFF file whose head tells its length; the pictures in it are decoded by libwebp. Their
// codes take nearly any bytes for a picture, but wrong ones come to an end elsewhere: the last bytes of a
// picture's data must be needed, and enough.

#include <webp/decode.h>
#include <webp/demux.h>

#include <algorithm>
#include <memory>
#include <new>

#include "content/format.hpp"
#include "content/list.hpp"
#include "content/memory.hpp"
#include "content/picture/picture_details.hpp"
#include "content/titles.hpp"

namespace undershelf::content {

namespace {

using namespace std::string_view_literals;

// Bytes a pixel that is given out takes, and what its decoder keeps beside it: of a lossy picture its alpha,
// of others all of it.
constexpr std::uint64_t given_out = 4, kept_if_lossy = 1, kept = 4;

void webp_exif(Content& content, const UseExif& use) {
    constexpr std::uint64_t most_chunks = 64;
    std::uint64_t at = 12;
    for (std::uint64_t chunks = 0; chunks < most_chunks; ++chunks) {
        const auto head = tag_bytes(content, at, 14);
        if (head.size() < 14) return;
        const std::uint64_t length = load<boost::endian::little_uint32_buf_t>(head, 4)->value();
        if (begins_with(head, "EXIF"sv)) {
            // Some writers put what JPEG needs before it.
            const std::uint64_t marked = begins_with(Bytes(head).subspan(8), "Exif\0\0"sv) ? 6 : 0;
            PartOfContent tiff(content, at + 8 + marked, length - std::min(length, marked));
            use(tiff);
            return;
        }
        at += 8 + length + length % 2;
    }
}

class WebP final : public FormatReader {
  public:
    Recognised recognise(Bytes first) const override {
        return {"webp", first.size() >= 16 && begins_with(first, "RIFF"sv) &&
                                begins_with(first.subspan(8), "WEBPVP8"sv)
                            ? 1.0
                            : 0.0};
    }

    std::string title(Content& content) const override { return exif_title_by(*this, content); }
    void exif(Content& content, const UseExif& use) const override { webp_exif(content, use); }
    InnerDates dates(Content& content) const override { return exif_dates_by(*this, content); }
    ContentDetails details(Content& content) const override {
        return with_camera(webp_details(content), *this, content);
    }
    Check check(Content& content, const CheckLimits&) const override {
        Check out;
        out.format = "webp";
        out.strength = Strength::fair;
        Cursor at(content);
        const auto length = load<boost::endian::little_uint32_buf_t>(at.peek(8), 4);
        const auto end = length ? 8ull + length->value() + length->value() % 2 : ~0ull;
        if (end > content.size()) return out.fails(content.size(), "it ends before its length says");
        // It is decoded from memory, and its pixels are there as well.
        if (end > checks_memory) return unfinished(out);
        MemoryClaim memory(end);
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
            const auto needed = memory_for(frame);
            if (needed > checks_memory - end) {
                WebPDemuxReleaseIterator(&frame);
                return unfinished(out);
            }
            memory.grow(end + needed);
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
    static std::uint64_t memory_for(const WebPIterator& frame) {
        constexpr int lossy = 1;
        WebPBitstreamFeatures features{};
        const auto seen = WebPGetFeatures(frame.fragment.bytes, frame.fragment.size, &features);
        const bool is_lossy = seen == VP8_STATUS_OK && features.format == lossy;
        return std::uint64_t(frame.width) * std::uint64_t(frame.height) *
               (given_out + (is_lossy ? kept_if_lossy : kept));
    }
    /// Null where the picture takes all of its data, up to the filling that writers leave.
    static const char* what_is_wrong(Bytes data) {
        // Bytes: of the four that an encoder's flush writes (RFC 6386, 7.3) three may tell nothing. The rest
        // is room for encoders that align what they write.
        constexpr std::size_t most_filling = 16;
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

constexpr Format rows[] = {
    {.word = "webp",
     .name = "WebP picture",
     .kind = Kind::picture,
     .extensions = " webp ",
     .family = "webp",
     .strength = Strength::fair,
     .filling = Filling::dense,
     .marks = "RI"sv},
};

}  // namespace

FormatRows webp_formats() {
    static const WebP reader;
    return {rows, &reader};
}

}  // namespace undershelf::content
