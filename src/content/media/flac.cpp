// FLAC (RFC 9639): metadata blocks, then frames, each with a CRC-8 over its head and a CRC-16 over all of it;
// the stream's head says how many samples there are. libFLAC decodes, in memory bounded by the format's
// largest frame.

#include <FLAC/stream_decoder.h>

#include <memory>
#include <new>

#include "content/format.hpp"
#include "content/list.hpp"
#include "content/media/media_details.hpp"
#include "content/media/vorbis_comments.hpp"
#include "content/titles.hpp"

namespace undershelf::content {

namespace {

using namespace std::string_view_literals;

/// What the decoder's callbacks work on.
struct Job {
    Content& content;
    std::uint64_t at = 0;
    std::uint64_t samples = 0;
    bool broken = false;
};

/// Bytes of the metadata (RFC 9639, section 8) that nothing covers. What the stream's head says is borne out
/// by the frames; zeros of padding are.
std::uint64_t uncovered_metadata(Content& content) {
    constexpr std::uint8_t stream_info = 0, padding = 1, last = 0x80;
    constexpr std::uint64_t unproven_in_stream_info = 10;  // smallest and largest blocks and frames
    std::uint64_t out = unproven_in_stream_info;
    Cursor at(content, 4);
    for (;;) {
        const auto head = at.take(4);
        if (head.size() < 4) return out;
        const bool is_last = head[0] & last;
        const auto kind = head[0] & 0x7F;
        const auto length = std::uint64_t{head[1]} << 16 | std::uint64_t{head[2]} << 8 | head[3];
        const auto end = at.at() + length;
        if (kind == padding) {
            while (at.at() < end) {
                const auto part =
                    at.take(static_cast<std::size_t>(std::min<std::uint64_t>(end - at.at(), Cursor::window)));
                if (part.empty()) return out;
                // Another file's bytes, or what an editor left of longer tags.
                if (!all_zero(part)) return content.size();
            }
        } else if (kind != stream_info) {
            out += length;
        }
        at.go_to(end);
        if (is_last) return out;
    }
}

std::string flac_title(Content& content) {
    for (std::uint64_t at = 4; at < content.size();) {
        const auto head = tag_bytes(content, at, 4);
        if (head.size() < 4) return {};
        const auto length = load<boost::endian::big_uint32_buf_t>(head)->value() & 0xFFFFFF;
        constexpr std::uint8_t last = 0x80, comments = 4;
        if ((head[0] & ~last) == comments) return comments_title(tag_bytes(content, at + 4, length));
        if (head[0] & last) return {};
        at += 4 + length;
    }
    return {};
}

class Flac final : public FormatReader {
  public:
    Recognised recognise(Bytes first) const override {
        return {"flac",
                begins_with(first, "fLaC"sv) && first.size() > 4 && (first[4] & 0x7F) == 0 ? 1.0 : 0.0};
    }

    std::string title(Content& content) const override { return flac_title(content); }
    ContentDetails details(Content& content) const override { return flac_details(content); }
    Check check(Content& content, const CheckLimits&) const override {
        Check out;
        out.format = "flac";
        out.strength = Strength::strong;
        const std::unique_ptr<FLAC__StreamDecoder, decltype(&FLAC__stream_decoder_delete)> decoder(
            FLAC__stream_decoder_new(), FLAC__stream_decoder_delete);
        if (!decoder) throw std::bad_alloc();
        Job job{content};
        FLAC__stream_decoder_set_md5_checking(decoder.get(), true);
        if (FLAC__stream_decoder_init_stream(decoder.get(), read, nullptr, tell, nullptr, nullptr, write,
                                             nullptr, error, &job) != FLAC__STREAM_DECODER_INIT_STATUS_OK ||
            !FLAC__stream_decoder_process_until_end_of_metadata(decoder.get()) || job.broken)
            return out.fails(0, "its head makes no sense");
        std::uint64_t good = 0;
        FLAC__stream_decoder_get_decode_position(decoder.get(), &good);
        const auto total = FLAC__stream_decoder_get_total_samples(decoder.get());
        while (total == 0 || job.samples < total) {
            const auto before = job.samples;
            const bool went_on = FLAC__stream_decoder_process_single(decoder.get());
            if (job.broken) return out.fails(good, "a frame's checksum does not hold");
            // Without a number of samples it is as long as it is.
            if (!went_on || job.samples == before) {
                if (total == 0 && good == content.size()) break;
                return out.fails(good, "it ends before its last frame");
            }
            FLAC__stream_decoder_get_decode_position(decoder.get(), &good);
            out.proven_to = good;
        }
        if (!FLAC__stream_decoder_finish(decoder.get()))
            return out.fails(0, "the checksum over its samples does not hold");
        out.strength = strong_unless(uncovered_metadata(content), good);
        return out.ends(good);
    }

  private:
    static FLAC__StreamDecoderReadStatus read(const FLAC__StreamDecoder*, FLAC__byte* buffer,
                                              std::size_t* bytes, void* data) {
        auto& job = *static_cast<Job*>(data);
        // What comes after a wrong byte is not searched for another frame.
        if (job.broken) return FLAC__STREAM_DECODER_READ_STATUS_ABORT;
        *bytes = job.at < job.content.size() ? job.content.read(job.at, {buffer, *bytes}) : 0;
        job.at += *bytes;
        return *bytes ? FLAC__STREAM_DECODER_READ_STATUS_CONTINUE
                      : FLAC__STREAM_DECODER_READ_STATUS_END_OF_STREAM;
    }
    static FLAC__StreamDecoderTellStatus tell(const FLAC__StreamDecoder*, FLAC__uint64* offset, void* data) {
        *offset = static_cast<Job*>(data)->at;
        return FLAC__STREAM_DECODER_TELL_STATUS_OK;
    }
    static FLAC__StreamDecoderWriteStatus write(const FLAC__StreamDecoder*, const FLAC__Frame* frame,
                                                const FLAC__int32* const*, void* data) {
        static_cast<Job*>(data)->samples += frame->header.blocksize;
        return FLAC__STREAM_DECODER_WRITE_STATUS_CONTINUE;
    }
    static void error(const FLAC__StreamDecoder*, FLAC__StreamDecoderErrorStatus, void* data) {
        static_cast<Job*>(data)->broken = true;
    }
};

constexpr Format rows[] = {
    {.word = "flac",
     .name = "FLAC sound",
     .kind = Kind::audio,
     .extensions = " flac ",
     .family = "flac",
     .strength = Strength::strong,
     .filling = Filling::dense,
     .holds_files = true,
     .marks = "fL"sv},
};

}  // namespace

FormatRows flac_formats() {
    static const Flac reader;
    return {rows, &reader};
}

}  // namespace undershelf::content
