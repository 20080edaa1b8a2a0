#include <algorithm>
#include <cmath>
#include <numbers>

#include "drawing/decoders.hpp"
#include "drawing/media.hpp"

extern "C" {
#include <libavutil/display.h>
#include <libswscale/swscale.h>
}

namespace undershelf::drawing {

namespace {

/// Pictures that are looked at before it is said that none decodes.
constexpr int most_packets = 2000;
constexpr double dark = 12;  ///< of 255: films begin black
constexpr int most_dark = 60;

/// At most `pixels` at the longer side, in the shape that it is shown in.
Picture scaled(const AVFrame& frame, AVRational aspect, std::uint32_t pixels) {
    auto width = static_cast<double>(frame.width), height = static_cast<double>(frame.height);
    if (aspect.num > 0 && aspect.den > 0) width *= std::clamp(av_q2d(aspect), 0.1, 10.0);
    const auto scale = std::min(1.0, pixels / std::max(width, height));
    const int w = std::max(1, static_cast<int>(std::lround(width * scale)));
    const int h = std::max(1, static_cast<int>(std::lround(height * scale)));
    const std::unique_ptr<SwsContext, decltype(&sws_freeContext)> scaler(
        sws_getContext(frame.width, frame.height, static_cast<AVPixelFormat>(frame.format), w, h,
                       AV_PIX_FMT_RGBA, SWS_BILINEAR, nullptr, nullptr, nullptr),
        sws_freeContext);
    if (!scaler) throw Undrawable{"its pictures are stored in a way that is not drawn"};
    // Its vector code may write somewhat beyond a row.
    constexpr std::size_t beyond = 64;
    const auto stride = (w * 4 + 63) / 64 * 64;
    std::vector<std::uint8_t> rgba(static_cast<std::size_t>(stride) * static_cast<std::size_t>(h) + beyond);
    std::uint8_t* const planes[] = {rgba.data(), nullptr, nullptr, nullptr};
    const int strides[] = {stride, 0, 0, 0};
    sws_scale(scaler.get(), frame.data, frame.linesize, 0, frame.height, planes, strides);
    RowScaler rows(static_cast<std::uint64_t>(w), static_cast<std::uint64_t>(h), pixels);
    for (int y = 0; y < h; ++y)
        rows.row(&rgba[static_cast<std::size_t>(y) * static_cast<std::size_t>(stride)]);
    auto out = rows.finish();
    out.full_width = static_cast<std::uint32_t>(frame.width);
    out.full_height = static_cast<std::uint32_t>(frame.height);
    return out;
}

/// How a film is to be turned, as Exif numbers it: cameras say so in quarters.
int orientation_of(const AVStream& stream) {
    const auto* matrix = av_stream_get_side_data(&stream, AV_PKT_DATA_DISPLAYMATRIX, nullptr);
    if (!matrix) return 1;
    const auto degrees = av_display_rotation_get(reinterpret_cast<const std::int32_t*>(matrix));
    if (!std::isfinite(degrees)) return 1;
    // Counter-clockwise, that is.
    constexpr int turns[] = {1, 8, 3, 6};
    return turns[(static_cast<int>(std::lround(degrees / 90)) % 4 + 4) % 4];
}

bool is_dark(const Picture& picture) {
    std::uint64_t sum = 0;
    for (const auto pixel : picture.argb) sum += (pixel >> 16 & 0xFF) + (pixel >> 8 & 0xFF) + (pixel & 0xFF);
    return static_cast<double>(sum) < dark * 3 * static_cast<double>(picture.argb.size());
}

/// The first picture that decodes and shows something; a dark one where all of the first are.
std::optional<Picture> first_of(Media& media, int index, std::uint32_t pixels) {
    const auto codec = media.decoder(index);
    if (!codec) return std::nullopt;
    const Packet packet(av_packet_alloc());
    const Frame frame(av_frame_alloc());
    if (!packet || !frame) throw std::bad_alloc();
    auto* stream = media.format()->streams[index];
    std::optional<Picture> kept;
    int seen = 0, packets = 0;
    for (bool ended = false; !ended;) {
        ended = ++packets > most_packets || !media.next(packet.get(), index);
        avcodec_send_packet(codec.get(), ended ? nullptr : packet.get());
        while (avcodec_receive_frame(codec.get(), frame.get()) == 0) {
            if (frame->flags & AV_FRAME_FLAG_CORRUPT || frame->decode_error_flags) continue;
            kept = scaled(*frame, av_guess_sample_aspect_ratio(media.format(), stream, frame.get()), pixels);
            if (!is_dark(*kept) || ++seen >= most_dark) return kept;
        }
    }
    return kept;
}

}  // namespace

Picture draw_film(Content& content, std::uint32_t pixels) {
    Media media(content);
    const int index = media.best(AVMEDIA_TYPE_VIDEO);
    if (index < 0) return draw_sound(content, pixels);
    auto* stream = media.format()->streams[index];
    auto found = first_of(media, index, pixels);
    if (found && stream->disposition & AV_DISPOSITION_ATTACHED_PIC) {
        found->shows = Shows::embedded;
        found->why = "it is the cover: no other picture is in it";
    } else if (!found) {
        for (unsigned i = 0; i < media.format()->nb_streams && !found; ++i) {
            const auto* other = media.format()->streams[i];
            if (!(other->disposition & AV_DISPOSITION_ATTACHED_PIC)) continue;
            BytesAsContent cover(
                {other->attached_pic.data, static_cast<std::size_t>(other->attached_pic.size)});
            found = other->codecpar->codec_id == AV_CODEC_ID_PNG ? draw_png(cover, pixels)
                                                                 : draw_jpeg(cover, pixels);
            found->shows = Shows::embedded;
            found->why = "it is the cover: no picture of the film can be decoded";
        }
    }
    if (!found) throw Undrawable{"none of its first pictures can be decoded"};
    found->orientation = orientation_of(*stream);
    return std::move(*found);
}

}  // namespace undershelf::drawing
