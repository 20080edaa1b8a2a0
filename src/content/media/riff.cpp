// RIFF files (Multimedia Programming Interface and Data Specifications 1.0): chunks of a name, a length and
// data, filled up to even lengths, in lists. WAV sounds (with RF64, EBU Tech 3306) and AVI films (with
// OpenDML's further segments) are read here; WebP, which is one too, has a decoder.

#include <algorithm>
#include <array>

#include "content/density.hpp"
#include "content/format.hpp"
#include "content/list.hpp"
#include "content/media/media_details.hpp"
#include "content/media/media_units.hpp"
#include "content/picture/jpeg.hpp"
#include "content/titles.hpp"

namespace undershelf::content {

namespace {

using namespace std::string_view_literals;
using boost::endian::little_uint32_buf_t;
using boost::endian::little_uint64_buf_t;

constexpr std::uint64_t unknown_length = 0xFFFFFFFF;  ///< what writers that cannot go back leave

struct Chunk {
    std::string name;
    std::uint64_t at = 0;    ///< of its head
    std::uint64_t size = 0;  ///< bytes of its data
    std::uint64_t data() const { return at + 8; }
    std::uint64_t end() const { return data() + size; }
    /// Where the next one is.
    std::uint64_t next() const { return end() + size % 2; }
};

std::optional<Chunk> chunk_at(Content& content, std::uint64_t at) {
    std::array<std::uint8_t, 8> head;
    if (content.read(at, head) < head.size()) return std::nullopt;
    // Names are printable.
    const auto name = text_of(Bytes(head).first(4));
    if (!std::all_of(name.begin(), name.end(), [](char c) { return c >= ' ' && c <= '~'; }))
        return std::nullopt;
    return Chunk{std::string(name), at, load<little_uint32_buf_t>(head, 4)->value()};
}

std::string form_of(Content& content, const Chunk& chunk) {
    ByteVector form(4);
    form.resize(content.read(chunk.data(), form));
    return std::string(text_of(form));
}

bool is_wave(Bytes first) {
    return (begins_with(first, "RIFF"sv) || begins_with(first, "RF64"sv)) && first.size() >= 12 &&
           begins_with(first.subspan(8), "WAVE"sv);
}
bool is_avi(Bytes first) {
    return begins_with(first, "RIFF"sv) && first.size() >= 12 && begins_with(first.subspan(8), "AVI "sv);
}

/// INFO lists of WAV and AVI.
std::string riff_title(Content& content) {
    std::string artist, title;
    std::uint64_t at = 12;
    for (int chunks = 0; chunks < 64; ++chunks) {
        const auto chunk = chunk_at(content, at);
        if (!chunk || chunk->end() > content.size()) break;
        if (chunk->name == "LIST" && form_of(content, *chunk) == "INFO") {
            for (auto inner = chunk_at(content, chunk->data() + 4);
                 inner && inner->end() <= chunk->end() && inner->size > 0;
                 inner = chunk_at(content, inner->next())) {
                ByteVector text(static_cast<std::size_t>(std::min<std::uint64_t>(inner->size, 256)));
                text.resize(content.read(inner->data(), text));
                if (inner->name == "INAM") title = from_latin_1(text);
                if (inner->name == "IART") artist = from_latin_1(text);
            }
        }
        at = chunk->next();
    }
    return song_title(artist, title);
}

class Wav final : public FormatReader {
  public:
    Recognised recognise(Bytes first) const override { return {"wav", is_wave(first) ? 1.0 : 0.0}; }
    std::string title(Content& content) const override { return riff_title(content); }
    ContentDetails details(Content& content) const override { return wav_details(content); }

    Check check(Content& content, const CheckLimits&) const override {
        Check out;
        out.format = "wav";
        out.strength = Strength::weak;
        const auto whole = chunk_at(content, 0);
        const bool open_ended = whole->size == unknown_length || whole->size == 0;
        std::uint64_t wide_data = 0, end = 12;
        bool format = false;
        std::uint64_t data_at = 0;
        const auto limit = open_ended ? content.size() : whole->next();
        while (end < limit && end < content.size()) {
            auto chunk = chunk_at(content, end);
            // Some writers count what they never wrote: a last byte of filling.
            if (!chunk) break;
            if (chunk->name == "ds64") wide_data = number(content, chunk->data() + 8);
            if (chunk->name == "data" && chunk->size == unknown_length && wide_data > 0)
                chunk->size = wide_data;
            const bool to_the_end =
                chunk->name == "data" && open_ended && (chunk->size == unknown_length || chunk->size == 0);
            if (to_the_end) chunk->size = content.size() - chunk->data();
            format |= chunk->name == "fmt ";
            if (chunk->name == "data") data_at = chunk->data();
            if (chunk->end() > content.size()) {
                out.cut = format && chunk->name == "data";
                return out.fails(content.size(), "it ends before its sound");
            }
            if (!readable(content, chunk->data(), chunk->size))
                return out.fails(chunk->at, "bytes of it are missing");
            end = chunk->next();
        }
        if (!format || data_at == 0)
            return out.fails(std::min(end, content.size()), "there is no sound in it");
        // Where nothing is after the sound, nothing vouches for it.
        if (!open_ended && whole->name == "RIFF" && end < whole->end())
            return out.fails(std::min(data_at, content.size()), "no chunk is after its sound");
        return out.ends(std::min(end, content.size()));
    }

  private:
    static std::uint64_t number(Content& content, std::uint64_t at) {
        std::array<std::uint8_t, 8> bytes;
        return content.read(at, bytes) < bytes.size() ? 0 : load<little_uint64_buf_t>(bytes)->value();
    }
};

class AviCheck {
  public:
    explicit AviCheck(Content& content) : content_(content) {}

    Check run() {
        out_.format = "avi";
        out_.strength = Strength::weak;
        std::uint64_t at = 0;
        // OpenDML goes on in segments of a gigabyte.
        for (auto segment = chunk_at(content_, 0); segment && segment->name == "RIFF";
             segment = chunk_at(content_, at)) {
            if (at > 0 && form_of(content_, *segment) != "AVIX") break;
            const bool open_ended = segment->size == unknown_length || segment->size == 0;
            const auto limit = open_ended ? content_.size() : segment->end();
            const bool held = walk(segment->data() + 4, limit, 0);
            out_.strength = density_.strength();
            if (!held) return out_;
            at = std::min(open_ended ? content_.size() : segment->next(), content_.size());
        }
        if (!has_head_ || !has_film_) return out_.fails(at, "there is no film in it");
        return out_.ends(at);
    }

  private:
    bool fails(std::uint64_t at, const char* why) {
        out_.fails(block_size_ > most_unseen && block_at_ < at ? block_at_ : at, why);
        return false;
    }

    bool walk(std::uint64_t at, std::uint64_t limit, int depth) {
        constexpr int most_depth = 8;
        while (at < limit) {
            const auto chunk = chunk_at(content_, at);
            if (!chunk) {
                // A length that counts one byte of filling that was never written.
                if (at + 1 >= limit && at >= content_.size()) return true;
                return fails(std::min(at, content_.size()), "no chunk is where one should be");
            }
            if (chunk->end() > content_.size())
                return fails(std::min(at, content_.size()), "it ends before its last chunk");
            if (chunk->end() > limit) return fails(at, "a chunk goes on after its list's end");
            if (chunk->name == "LIST") {
                const auto form = form_of(content_, *chunk);
                has_head_ |= form == "hdrl";
                has_film_ |= form == "movi";
                if (depth < most_depth && chunk->size >= 4 &&
                    !walk(chunk->data() + 4, chunk->end(), depth + 1))
                    return false;
            } else if (!take(*chunk)) {
                return false;
            }
            at = chunk->next();
        }
        return true;
    }

    bool take(const Chunk& chunk) {
        // Frames are named by their stream and what they are: 00dc, 01wb.
        if (chunk.name.ends_with("dc") && chunk.size > 4 && begins_as_jpeg(chunk)) {
            if (!jpegs_->holds(content_, chunk.data(), chunk.size, density_))
                return fails(chunk.at, "a picture of it makes no sense");
        } else {
            density_.add(chunk.size + 8);
            if (!readable(content_, chunk.data(), chunk.size))
                return fails(chunk.at, "bytes of it are missing");
            block_at_ = chunk.at;
            block_size_ = chunk.size;
            return true;
        }
        block_size_ = 0;
        return true;
    }
    bool begins_as_jpeg(const Chunk& chunk) {
        std::array<std::uint8_t, 16> start;
        return jpeg().recognise(Bytes(start).first(content_.read(chunk.data(), start))).sure > 0 &&
               // Films leave out tables that all pictures share, which a decoder of single ones misses.
               has_tables(chunk);
    }
    bool has_tables(const Chunk& chunk) {
        ByteVector start(static_cast<std::size_t>(std::min<std::uint64_t>(chunk.size, 2048)));
        start.resize(content_.read(chunk.data(), start));
        return text_of(start).find("\xff\xc4"sv) != std::string_view::npos;
    }

    Content& content_;
    Check out_;
    Density density_;
    std::unique_ptr<UnitCheck> jpegs_ = jpeg_units();
    bool has_head_ = false, has_film_ = false;
    std::uint64_t block_at_ = 0, block_size_ = 0;  ///< the last chunk that was seen through at its head alone
};

class Avi final : public FormatReader {
  public:
    Recognised recognise(Bytes first) const override { return {"avi", is_avi(first) ? 1.0 : 0.0}; }
    std::string title(Content& content) const override { return riff_title(content); }
    ContentDetails details(Content& content) const override { return avi_details(content); }
    Check check(Content& content, const CheckLimits&) const override { return AviCheck(content).run(); }
};

constexpr Format wav_rows[] = {
    {.word = "wav",
     .name = "WAV sound",
     .kind = Kind::audio,
     .extensions = " wav ",
     .family = "wav",
     .strength = Strength::weak,
     .delay = 64 * KiB,
     .marks = "RI"sv},
};

}  // namespace

FormatRows wav_formats() {
    static const Wav reader;
    return {wav_rows, &reader};
}
namespace {

constexpr Format avi_rows[] = {
    {.word = "avi",
     .name = "AVI video",
     .kind = Kind::video,
     .extensions = " avi ",
     .family = "avi",
     .strength = Strength::fair,
     .delay = 64 * KiB,
     .marks = "RI"sv},
};

}  // namespace

FormatRows avi_formats() {
    static const Avi reader;
    return {avi_rows, &reader};
}

}  // namespace undershelf::content
