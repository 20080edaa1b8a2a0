#include <algorithm>
#include <cmath>

#include "drawing/decoders.hpp"
#include "drawing/media.hpp"
#include "drawing/surface.hpp"

extern "C" {
#include <libavutil/samplefmt.h>
}

namespace undershelf::drawing {

namespace {

constexpr double half_minute = 30;  ///< seconds: of longer ones a part of each stretch is heard
constexpr std::size_t bars = 160;

/// A sample of any kind, from -1 to 1.
double sample(const AVFrame& frame, int channel, int at) {
    const bool planar = av_sample_fmt_is_planar(static_cast<AVSampleFormat>(frame.format));
    const int channels = std::max(1, frame.ch_layout.nb_channels);
    const auto* plane = frame.extended_data[planar ? channel : 0];
    const auto index = planar ? at : at * channels + channel;
    switch (av_get_packed_sample_fmt(static_cast<AVSampleFormat>(frame.format))) {
        case AV_SAMPLE_FMT_U8:
            return (plane[index] - 128) / 128.0;
        case AV_SAMPLE_FMT_S16:
            return reinterpret_cast<const std::int16_t*>(plane)[index] / 32768.0;
        case AV_SAMPLE_FMT_S32:
            return reinterpret_cast<const std::int32_t*>(plane)[index] / 2147483648.0;
        case AV_SAMPLE_FMT_FLT:
            return static_cast<double>(reinterpret_cast<const float*>(plane)[index]);
        case AV_SAMPLE_FMT_DBL:
            return reinterpret_cast<const double*>(plane)[index];
        default:
            return 0;
    }
}

/// How loud a sound is over its time.
class Waves {
  public:
    Waves(Media& media, int index, double seconds)
        : media_(media), index_(index), seconds_(seconds), codec_(media.decoder(index)), loudest_(bars, -1) {
        if (!codec_) throw Undrawable{"no decoder for its sound is there"};
        if (!packet_ || !frame_) throw std::bad_alloc();
    }

    void hear() {
        if (seconds_ <= half_minute) return hear_until(seconds_ + 1);
        // A tenth of a second of each bar is enough for people to tell speech from music.
        auto* stream = media_.format()->streams[index_];
        for (std::size_t bar = 0; bar < bars; ++bar) {
            const auto from = seconds_ * static_cast<double>(bar) / bars;
            const auto at = static_cast<std::int64_t>(from / av_q2d(stream->time_base));
            if (av_seek_frame(media_.format(), index_, at, AVSEEK_FLAG_BACKWARD) < 0) break;
            avcodec_flush_buffers(codec_.get());
            hear_until(from + 0.1);
        }
    }

    /// From 0 to 1; negative for what was not heard.
    const std::vector<double>& loudest() const { return loudest_; }

  private:
    void hear_until(double end) {
        constexpr int most_packets = 100'000;
        for (int packets = 0; packets < most_packets && media_.next(packet_.get(), index_); ++packets) {
            if (avcodec_send_packet(codec_.get(), packet_.get()) < 0) continue;
            while (avcodec_receive_frame(codec_.get(), frame_.get()) == 0) {
                const auto at = time_of(*frame_);
                add(at);
                if (at >= end) return;
            }
        }
    }

    double time_of(const AVFrame& frame) {
        const auto* stream = media_.format()->streams[index_];
        if (frame.best_effort_timestamp != AV_NOPTS_VALUE) {
            const auto start = stream->start_time == AV_NOPTS_VALUE ? 0 : stream->start_time;
            now_ = static_cast<double>(frame.best_effort_timestamp - start) * av_q2d(stream->time_base);
        }
        const auto out = now_;
        if (frame.sample_rate > 0) now_ += static_cast<double>(frame.nb_samples) / frame.sample_rate;
        return out;
    }

    void add(double at) {
        if (!(at >= 0) || frame_->sample_rate <= 0) return;
        const int channels = std::max(1, frame_->ch_layout.nb_channels);
        for (int i = 0; i < frame_->nb_samples; ++i) {
            const auto time = at + static_cast<double>(i) / frame_->sample_rate;
            const auto bar = static_cast<std::size_t>(time / std::max(seconds_, 0.001) * bars);
            if (bar >= bars) return;
            for (int c = 0; c < std::min(channels, 2); ++c) {
                const auto loud = std::abs(sample(*frame_, c, i));
                if (std::isfinite(loud)) loudest_[bar] = std::max(loudest_[bar], std::min(1.0, loud));
            }
        }
    }

    Media& media_;
    int index_;
    double seconds_;
    Codec codec_;
    Packet packet_{av_packet_alloc()};
    Frame frame_{av_frame_alloc()};
    double now_ = 0;
    std::vector<double> loudest_;
};

/// A bar for each stretch, around a line; grey where nothing was heard.
Picture drawn(const std::vector<double>& loudest, std::uint32_t pixels) {
    const auto width = static_cast<int>(pixels), height = std::max(1, width / 2);
    const auto surface = new_surface(width, height);
    const auto pen = pen_on(surface);
    cairo_set_source_rgb(pen.get(), 0.97, 0.97, 0.96);
    cairo_paint(pen.get());
    const auto step = static_cast<double>(width) / bars;
    for (std::size_t i = 0; i < bars; ++i) {
        const auto heard = loudest[i] >= 0;
        const auto half = std::max(heard ? loudest[i] * height * 0.45 : 0.0, height * 0.006);
        heard ? cairo_set_source_rgb(pen.get(), 0.2, 0.33, 0.45)
              : cairo_set_source_rgb(pen.get(), 0.75, 0.75, 0.75);
        cairo_rectangle(pen.get(), static_cast<double>(i) * step, height / 2.0 - half, step * 0.7, 2 * half);
        cairo_fill(pen.get());
    }
    return picture_of(surface);
}

}  // namespace

Picture draw_sound(Content& content, std::uint32_t pixels) {
    Media media(content);
    const int index = media.best(AVMEDIA_TYPE_AUDIO);
    if (index < 0) throw Undrawable{"neither a picture nor a sound is found in it"};
    const auto told = media.format()->duration;
    const auto seconds = told > 0 ? static_cast<double>(told) / AV_TIME_BASE : 1.0;
    Waves waves(media, index, seconds);
    waves.hear();
    const auto& loudest = waves.loudest();
    const auto heard = std::count_if(loudest.begin(), loudest.end(), [](double l) { return l >= 0; });
    if (heard == 0) throw Undrawable{"none of its sound can be decoded"};
    auto out = drawn(loudest, pixels);
    out.full_width = out.full_height = 0;
    if (heard < static_cast<std::ptrdiff_t>(bars * 9 / 10)) {
        out.shows = Shows::part;
        out.why = "where it is grey nothing could be decoded";
    }
    return out;
}

}  // namespace undershelf::drawing
