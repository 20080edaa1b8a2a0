// MP3 (ISO/IEC 11172-3 and 13818-3, layer III): frames, each after the last, whose heads tell their lengths.
// Tags are before (ID3v2) and after them (ID3v1, APE, Lyrics3). The number of frames is told at most by
// the first one, as encoders of changing bit rates write it.

#include <array>

#include "content/density.hpp"
#include "content/format.hpp"
#include "content/list.hpp"
#include "content/media/media_details.hpp"
#include "content/media/media_units.hpp"
#include "content/titles.hpp"

namespace undershelf::content {

namespace {

using namespace std::string_view_literals;

struct FrameHead {
    std::uint32_t constant = 0;       ///< what all frames of a stream share: version, layer, sample rate
    std::size_t size = 0;             ///< bytes
    std::size_t side = 0;             ///< bytes of side information after the head
    unsigned hertz = 0, samples = 0;  ///< samples: of this frame
};
constexpr std::size_t head_size = 4;

/// ISO/IEC 11172-3, 2.4.2.3; ISO/IEC 13818-3, 2.4.2.3 for the lower sample rates.
std::optional<FrameHead> frame_head(Bytes bytes) {
    if (bytes.size() < head_size || bytes[0] != 0xFF || (bytes[1] & 0xE0) != 0xE0) return std::nullopt;
    constexpr std::array<std::uint32_t, 15> rates_1{0,   32,  40,  48,  56,  64,  80, 96,
                                                    112, 128, 160, 192, 224, 256, 320};
    constexpr std::array<std::uint32_t, 15> rates_2{0,  8,  16, 24,  32,  40,  48, 56,
                                                    64, 80, 96, 112, 128, 144, 160};
    constexpr std::array<std::uint32_t, 3> samples{44100, 48000, 32000};
    const unsigned version = bytes[1] >> 3 & 3, layer = bytes[1] >> 1 & 3;
    const unsigned rate = bytes[2] >> 4, frequency = bytes[2] >> 2 & 3;
    const bool mono = bytes[3] >> 6 == 3;
    constexpr unsigned layer_3 = 1, version_1 = 3, version_2_5 = 0, reserved = 1;
    // Emphasis 2 is reserved as well. A free bit rate (0) tells no length, and is nearly never written.
    if (layer != layer_3 || version == reserved || rate == 0 || rate == 15 || frequency == 3 ||
        (bytes[3] & 3) == 2)
        return std::nullopt;
    FrameHead out;
    out.constant = static_cast<std::uint32_t>(bytes[1]) >> 1 << 2 | frequency;
    const auto hertz = samples[frequency] >> (version == version_1 ? 0 : version == version_2_5 ? 2 : 1);
    const auto kilobits = version == version_1 ? rates_1[rate] : rates_2[rate];
    out.hertz = hertz;
    out.samples = version == version_1 ? 1152 : 576;
    out.side = version == version_1 ? (mono ? 17 : 32) : (mono ? 9 : 17);
    out.size = (version == version_1 ? 144u : 72u) * kilobits * 1000 / hertz + (bytes[2] >> 1 & 1);
    return out;
}

/// ID3v2: a head of ten bytes, a length in groups of seven bits, a foot if a flag says so. 0 when there is
/// none.
std::uint64_t id3_size(Bytes bytes) {
    if (!begins_with(bytes, "ID3"sv) || bytes.size() < 10 || bytes[3] == 0xFF || bytes[4] == 0xFF) return 0;
    std::uint64_t size = 0;
    for (std::size_t i = 6; i < 10; ++i) {
        if (bytes[i] & 0x80) return 0;
        size = size << 7 | bytes[i];
    }
    return size + (bytes[5] & 0x10 ? 20 : 10);
}

/// What may be after the frames. 0 when none of it does.
std::uint64_t tag_behind(Cursor& at) {
    const auto bytes = at.peek(64 << 10);
    if (begins_with(bytes, "TAG+"sv)) return 227;
    if (begins_with(bytes, "TAG"sv)) return 128;
    if (begins_with(bytes, "APETAGEX"sv) && bytes.size() >= 32) {
        // The length counts the foot, not the head; a foot without a head is after its items.
        const auto length = load<boost::endian::little_uint32_buf_t>(bytes, 12)->value();
        const bool is_head = bytes[23] & 0x20;
        return is_head ? 32ull + length : 32;
    }
    if (begins_with(bytes, "LYRICSBEGIN"sv)) {
        const auto text = text_of(bytes);
        const auto end = std::min(text.find("LYRICS200"), text.find("LYRICSEND"));
        return end == text.npos ? 0 : end + 9;
    }
    return id3_size(bytes);
}

/// ID3v2's text frames: a byte that tells the encoding, then the text.
std::string id3_text(Bytes body) {
    if (body.empty()) return {};
    const auto text = body.subspan(1);
    switch (body[0]) {
        case 0:
            return from_latin_1(text);
        case 1:
            return from_utf16(text, text.size() > 1 && text[0] == 0xFE);
        case 2:
            return from_utf16(text, true);
        default:
            return std::string(text_of(text).substr(0, text_of(text).find('\0')));
    }
}

std::uint32_t id3_length(Bytes bytes, std::size_t at, unsigned bits) {
    std::uint32_t out = 0;
    for (std::size_t i = 0; i < 4; ++i) out = out << bits | bytes[at + i];
    return out;
}

/// ID3v2 (id3.org, 2.2 to 2.4) at the start, else ID3v1 at the end.
std::string mp3_title(Content& content) {
    std::string artist, title;
    const auto head = tag_bytes(content, 0, 10);
    if (head.size() == 10 && begins_with(head, "ID3"sv)) {
        const auto tag = tag_bytes(content, 10, id3_length(head, 6, 7));
        const std::size_t version = head[3];
        const std::size_t frame_head = version == 2 ? 6 : 10;
        for (auto rest = Bytes(tag); rest.size() > frame_head && rest[0] != 0;) {
            const std::size_t length =
                version == 2 ? id3_length(rest, 2, 8) & 0xFFFFFF : id3_length(rest, 4, version == 4 ? 7 : 8);
            if (length > rest.size() - frame_head) break;
            const auto body = rest.subspan(frame_head, length);
            if (begins_with(rest, "TIT2"sv) || begins_with(rest, "TT2"sv)) title = id3_text(body);
            if (begins_with(rest, "TPE1"sv) || begins_with(rest, "TP1"sv)) artist = id3_text(body);
            rest = rest.subspan(frame_head + length);
        }
    }
    if (title.empty() && artist.empty() && content.size() > 128) {
        const auto tag = tag_bytes(content, content.size() - 128, 128);
        if (tag.size() == 128 && begins_with(tag, "TAG"sv)) {
            title = from_latin_1(Bytes(tag).subspan(3, 30));
            artist = from_latin_1(Bytes(tag).subspan(33, 30));
        }
    }
    return song_title(as_title(artist), as_title(title));
}

class Mp3Check {
  public:
    explicit Mp3Check(Content& content) : content_(content), at_(content) {}

    Check run() {
        out_.format = "mp3";
        out_.strength = Strength::fair;
        while (const auto tag = id3_size(at_.peek(10))) {
            density_.add(tag);
            at_.go_to(at_.at() + tag);
        }
        // Some writers leave room after the tag.
        skip_zeros();
        const auto first = frame_head(at_.peek(head_size));
        if (!first) return out_.fails(at_.at(), "no frame is where one should be");
        promised_ = promised_frames(*first);
        std::uint64_t frames = 0;
        for (auto head = first; head && head->constant == first->constant; ++frames) {
            const auto size = head->size;
            if (size > content_.size() - at_.at()) return ends_early("it ends within a frame");
            if (at_.peek(size).size() < size) return out_.fails(at_.at(), "bytes of it are missing");
            at_.go_to(at_.at() + size);
            density_.add(size);
            head = frame_head(at_.peek(head_size));
        }
        return end_after(frames);
    }

  private:
    /// The first frame of an encoder with changing bit rates is silent, and counts the others.
    Density density_;
    std::uint64_t promised_frames(const FrameHead& head) {
        const auto bytes = at_.peek(head_size + head.side + 16);
        const auto behind = bytes.subspan(std::min(bytes.size(), head_size + head.side));
        if (behind.size() < 12 || (!begins_with(behind, "Xing"sv) && !begins_with(behind, "Info"sv)))
            return 0;
        const auto flags = load<boost::endian::big_uint32_buf_t>(behind, 4)->value();
        return flags & 1 ? std::uint64_t{load<boost::endian::big_uint32_buf_t>(behind, 8)->value()} + 1 : 0;
    }

    void skip_zeros() {
        constexpr std::size_t most = 16 << 10;  // bytes
        const auto bytes = at_.peek(most);
        std::size_t zeros = 0;
        while (zeros < bytes.size() && bytes[zeros] == 0) ++zeros;
        at_.go_to(at_.at() + zeros);
    }

    Check& end_after(std::uint64_t frames) {
        const auto frames_end = at_.at();
        while (const auto tag = tag_behind(at_)) {
            if (tag > content_.size() - at_.at())
                return out_.fails(at_.at(), "a tag after its sound is cut off");
            if (!readable(content_, at_.at(), tag)) return out_.fails(at_.at(), "bytes of it are missing");
            density_.add(tag);
            at_.go_to(at_.at() + tag);
        }
        // A tag may hold a picture larger than the sound.
        out_.strength = density_.strength();
        // Some encoders count the frame that holds the number, some the one that flushes the last sound.
        constexpr std::uint64_t counted_otherwise = 2;
        const bool enough = promised_ > 0 && frames + counted_otherwise >= promised_;
        const bool fills = at_.at() == content_.size() || at_.at() > frames_end;
        if (enough || (fills && promised_ == 0)) return out_.ends(at_.at());
        return fills ? ends_early("it has fewer frames than its first one promises")
                     : out_.fails(at_.at(), "no frame is where one should be");
    }

    /// Some recordings just stop, and their programs play them all the same.
    Check& ends_early(std::string why) {
        out_.cut = true;
        return out_.fails(at_.at(), std::move(why));
    }

    Content& content_;
    Cursor at_;
    Check out_;
    std::uint64_t promised_ = 0;  ///< frames; 0 when nothing tells
};

/// By the number of frames that encoders of changing rates leave in the first one; else as if all were like
/// it.
ContentDetails mp3_details(Content& content) {
    const auto start = id3_size(tag_bytes(content, 0, 10));
    const auto bytes = tag_bytes(content, start, 256);
    const auto head = frame_head(bytes);
    if (!head || head->size == 0 || content.size() < start) return {};
    const auto tag = head_size + head->side;
    const bool tells = bytes.size() >= tag + 12 && (begins_with(Bytes(bytes).subspan(tag), "Xing"sv) ||
                                                    begins_with(Bytes(bytes).subspan(tag), "Info"sv));
    auto frames = static_cast<double>(content.size() - start) / static_cast<double>(head->size);
    if (tells && (bytes[tag + 7] & 1))
        frames = load<boost::endian::big_uint32_buf_t>(bytes, tag + 8)->value();
    ContentDetails out;
    out.seconds = play_time(frames * head->samples, head->hertz);
    return out;
}

class Mp3 final : public FormatReader {
  public:
    Recognised recognise(Bytes first) const override {
        const auto tag = id3_size(first);
        if (tag > 0 && tag >= first.size()) return {"mp3", 0.85};
        auto rest = first.subspan(static_cast<std::size_t>(tag));
        // Three frames in a row are no accident.
        std::size_t frames = 0;
        std::optional<std::uint32_t> constant;
        while (const auto head = frame_head(rest)) {
            if (constant.value_or(head->constant) != head->constant) return {"mp3", tag ? 0.8 : 0.0};
            constant = head->constant;
            ++frames;
            rest = rest.subspan(std::min(rest.size(), head->size));
        }
        if (frames >= 3) return {"mp3", 0.95};
        return {"mp3", tag && frames ? 0.9 : tag ? 0.8 : frames == 2 && rest.size() < head_size ? 0.85 : 0.0};
    }

    std::string title(Content& content) const override { return mp3_title(content); }
    ContentDetails details(Content& content) const override { return mp3_details(content); }
    Check check(Content& content, const CheckLimits&) const override { return Mp3Check(content).run(); }
};

/// A frame begins with eleven bits that are set (ISO/IEC 11172-3, 2.4.1.3), or an ID3 tag is before it.
constexpr auto marks = [] {
    std::array<char, 2 * 33> out{'I', 'D'};
    for (std::size_t i = 1; i <= 32; ++i) {
        out[2 * i] = '\xff';
        out[2 * i + 1] = static_cast<char>(0xE0 + i - 1);
    }
    return out;
}();
constexpr Format rows[] = {
    {.word = "mp3",
     .name = "MP3 sound",
     .kind = Kind::audio,
     .extensions = " mp3 ",
     .shared = " mp3 ",
     .family = "mp3",
     .strength = Strength::fair,
     .delay = 8 * KiB,
     .filling = Filling::dense,
     .holds_files = true,
     .marks = {marks.data(), marks.size()}},
};

}  // namespace

FormatRows mp3_formats() {
    static const Mp3 reader;
    return {rows, &reader};
}

}  // namespace undershelf::content
