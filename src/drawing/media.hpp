#pragma once
// Films and sounds as libavformat and libavcodec read them: from a content alone, whatever it asks for.

#include <memory>

#include "content/content.hpp"

extern "C" {
#include <libavcodec/avcodec.h>
#include <libavformat/avformat.h>
}

namespace undershelf::drawing {

struct FreeCodec {
    void operator()(AVCodecContext* c) const { avcodec_free_context(&c); }
};
struct FreeFrame {
    void operator()(AVFrame* f) const { av_frame_free(&f); }
};
struct FreePacket {
    void operator()(AVPacket* p) const { av_packet_free(&p); }
};
using Codec = std::unique_ptr<AVCodecContext, FreeCodec>;
using Frame = std::unique_ptr<AVFrame, FreeFrame>;
using Packet = std::unique_ptr<AVPacket, FreePacket>;

class Media {
  public:
    /// Throws Undrawable where its structure cannot be read.
    explicit Media(Content& content);
    ~Media();
    Media(const Media&) = delete;
    Media& operator=(const Media&) = delete;

    AVFormatContext* format() const { return format_; }
    /// The stream that is shown; -1 for none.
    int best(AVMediaType type) const;
    /// Opens a stream's decoder; null where libavcodec has none for it.
    Codec decoder(int stream) const;
    /// The next packet of a stream; false at the end, or where nothing more can be read.
    bool next(AVPacket* packet, int stream);

  private:
    static int read(void* content, std::uint8_t* out, int length);
    static std::int64_t seek(void* content, std::int64_t offset, int whence);

    Content& content_;
    std::uint64_t at_ = 0;
    AVIOContext* io_ = nullptr;
    AVFormatContext* format_ = nullptr;
};

}  // namespace undershelf::drawing
