#include <webp/decode.h>
#include <webp/demux.h>

#include <algorithm>
#include <memory>

#include "drawing/decoders.hpp"

namespace undershelf::drawing {

namespace {

/// The frame that is drawn: of an animation the first one.
WebPData frame_of(const ByteVector& bytes,
                  std::unique_ptr<WebPDemuxer, decltype(&WebPDemuxDelete)>& demuxer) {
    WebPDemuxState state{};
    const WebPData data{bytes.data(), bytes.size()};
    demuxer.reset(WebPDemuxPartial(&data, &state));
    WebPIterator frame{};
    if (demuxer && (WebPDemuxGetI(demuxer.get(), WEBP_FF_FORMAT_FLAGS) & ANIMATION_FLAG) &&
        WebPDemuxGetFrame(demuxer.get(), 1, &frame)) {
        const auto out = frame.fragment;
        WebPDemuxReleaseIterator(&frame);
        return out;
    }
    return data;
}

}  // namespace

Picture draw_webp(Content& content, std::uint32_t pixels) {
    const auto bytes = all_of(content);
    std::unique_ptr<WebPDemuxer, decltype(&WebPDemuxDelete)> demuxer(nullptr, WebPDemuxDelete);
    const auto frame = frame_of(bytes, demuxer);
    WebPDecoderConfig config;
    if (!WebPInitDecoderConfig(&config) ||
        WebPGetFeatures(frame.bytes, frame.size, &config.input) != VP8_STATUS_OK)
        throw Undrawable{"its head is damaged"};
    const auto width = config.input.width, height = config.input.height;
    const auto longer = static_cast<std::uint32_t>(std::max(width, height));
    config.options.use_scaling = longer > pixels;
    config.options.scaled_width = std::max(1, static_cast<int>(std::int64_t{width} * pixels / longer));
    config.options.scaled_height = std::max(1, static_cast<int>(std::int64_t{height} * pixels / longer));
    const int shown_width = config.options.use_scaling ? config.options.scaled_width : width;
    const int shown_height = config.options.use_scaling ? config.options.scaled_height : height;
    config.output.colorspace = MODE_RGBA;
    // Rows that were not decoded are transparent.
    std::vector<std::uint8_t> rgba(static_cast<std::size_t>(shown_width) *
                                   static_cast<std::size_t>(shown_height) * 4);
    config.output.u.RGBA = {rgba.data(), shown_width * 4, rgba.size()};
    config.output.is_external_memory = 1;
    const std::unique_ptr<WebPIDecoder, decltype(&WebPIDelete)> decoder(WebPIDecode(nullptr, 0, &config),
                                                                        WebPIDelete);
    if (!decoder) throw std::bad_alloc();
    WebPIAppend(decoder.get(), frame.bytes, frame.size);
    int last = 0;
    if (!WebPIDecGetRGB(decoder.get(), &last, nullptr, nullptr, nullptr) || last <= 0)
        throw Undrawable{"none of its rows can be decoded"};
    RowScaler rows(static_cast<std::uint64_t>(shown_width), static_cast<std::uint64_t>(shown_height), pixels);
    for (int y = 0; y < last; ++y)
        rows.row(&rgba[static_cast<std::size_t>(y) * static_cast<std::size_t>(shown_width) * 4]);
    auto out = rows.finish();
    out.full_width = static_cast<std::uint32_t>(width);
    out.full_height = static_cast<std::uint32_t>(height);
    return out;
}

}  // namespace undershelf::drawing
