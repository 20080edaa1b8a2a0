#include "drawing/media.hpp"

#include <algorithm>
#include <new>

#include "drawing/picture.hpp"

namespace undershelf::drawing {

namespace {
constexpr int io_buffer = 64 << 10;
/// What is looked at before a decision is made about the streams.
constexpr std::int64_t most_probed = 8 << 20, most_analysed = 3 * AV_TIME_BASE;
/// Those that are known here. Lists of other files, and devices, are none of them.
constexpr const char* known_formats =
    "mov,mp4,m4a,3gp,matroska,webm,avi,asf,mpeg,mpegts,mpegvideo,mp3,flac,ogg,wav,aiff,amr,aac,flv,m4v,h264,"
    "hevc";
}  // namespace

Media::Media(Content& content) : content_(content) {
    av_log_set_level(AV_LOG_QUIET);
    auto* buffer = static_cast<std::uint8_t*>(av_malloc(io_buffer));
    io_ = buffer ? avio_alloc_context(buffer, io_buffer, 0, this, read, nullptr, seek) : nullptr;
    format_ = io_ ? avformat_alloc_context() : nullptr;
    if (!format_) throw std::bad_alloc();
    format_->pb = io_;
    format_->probesize = most_probed;
    format_->max_analyze_duration = most_analysed;
    format_->flags |= AVFMT_FLAG_CUSTOM_IO;
    AVDictionary* options = nullptr;
    // No protocol at all: whatever a file names, nothing is opened.
    av_dict_set(&options, "protocol_whitelist", "none", 0);
    av_dict_set(&options, "format_whitelist", known_formats, 0);
    const int opened = avformat_open_input(&format_, nullptr, nullptr, &options);
    av_dict_free(&options);
    // Where it fails it has freed the format.
    const bool readable = opened == 0 && avformat_find_stream_info(format_, nullptr) >= 0;
    if (readable) return;
    avformat_close_input(&format_);
    av_freep(&io_->buffer);
    avio_context_free(&io_);
    throw Undrawable{"its structure cannot be read"};
}

Media::~Media() {
    avformat_close_input(&format_);
    av_freep(&io_->buffer);
    avio_context_free(&io_);
}

int Media::read(void* self, std::uint8_t* out, int length) {
    auto& media = *static_cast<Media*>(self);
    const auto got = media.content_.read(media.at_, {out, static_cast<std::size_t>(std::max(0, length))});
    media.at_ += got;
    return got > 0 ? static_cast<int>(got) : AVERROR_EOF;
}

std::int64_t Media::seek(void* self, std::int64_t offset, int whence) {
    auto& media = *static_cast<Media*>(self);
    const auto size = static_cast<std::int64_t>(media.content_.size());
    if (whence & AVSEEK_SIZE) return size;
    const auto from = whence == SEEK_CUR   ? static_cast<std::int64_t>(media.at_)
                      : whence == SEEK_END ? size
                                           : 0;
    if (offset < -from) return AVERROR(EINVAL);
    media.at_ = static_cast<std::uint64_t>(from + offset);
    return from + offset;
}

int Media::best(AVMediaType type) const {
    return std::max(-1, av_find_best_stream(format_, type, -1, -1, nullptr, 0));
}

Codec Media::decoder(int stream) const {
    const auto* parameters = format_->streams[stream]->codecpar;
    const auto* codec = avcodec_find_decoder(parameters->codec_id);
    Codec out(codec ? avcodec_alloc_context3(codec) : nullptr);
    if (!out || avcodec_parameters_to_context(out.get(), parameters) < 0) return nullptr;
    out->thread_count = 1;
    out->pkt_timebase = format_->streams[stream]->time_base;
    // What is damaged is no picture; keyframes alone stand for themselves.
    out->err_recognition = AV_EF_CAREFUL;
    return avcodec_open2(out.get(), codec, nullptr) == 0 ? std::move(out) : nullptr;
}

bool Media::next(AVPacket* packet, int stream) {
    for (;;) {
        av_packet_unref(packet);
        if (av_read_frame(format_, packet) < 0) return false;
        if (packet->stream_index == stream) return true;
    }
}

}  // namespace undershelf::drawing
