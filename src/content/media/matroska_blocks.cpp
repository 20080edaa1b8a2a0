#include "content/media/matroska_blocks.hpp"

#include <numeric>

namespace undershelf::content {

namespace {

constexpr std::size_t most_lacing = 4096;  ///< bytes of a block's head: 256 sizes of frames at most

/// Strings may be filled up with zeros.
std::string_view string_of(Bytes body) {
    const auto text = text_of(body);
    return text.substr(0, text.find('\0'));
}

std::unique_ptr<UnitCheck> unit_check(std::string_view codec, Bytes setup) {
    if (codec == "V_MPEG4/ISO/AVC" && setup.size() >= 5) return nal_units((setup[4] & 3u) + 1);
    if (codec == "V_MPEGH/ISO/HEVC" && setup.size() >= 22) return nal_units((setup[21] & 3u) + 1);
    if (codec == "A_AAC" && !setup.empty()) return aac_units(setup);
    if (codec == "V_MJPEG") return jpeg_units();
    return nullptr;
}

/// Sizes as sums of bytes of which all but the last are 255.
bool read_xiph(Bytes start, std::size_t count, Lacing& out) {
    for (std::size_t i = 0; i < count; ++i) {
        std::uint64_t size = 0;
        for (;;) {
            if (out.head >= start.size()) return false;
            const auto b = start[out.head++];
            size += b;
            if (b != 255) break;
        }
        out.frames.push_back(size);
    }
    return true;
}

/// The first size, then what each differs from the one before.
bool read_differences(Bytes start, std::size_t count, Lacing& out) {
    for (std::size_t i = 0; i < count; ++i) {
        const auto n = ebml_number(start.subspan(std::min(out.head, start.size())));
        if (!n) return false;
        out.head += n->bytes;
        if (i == 0) {
            out.frames.push_back(n->value);
            continue;
        }
        const auto bias = (std::int64_t{1} << (7 * n->bytes - 1)) - 1;
        const auto size =
            static_cast<std::int64_t>(out.frames.back()) + static_cast<std::int64_t>(n->value) - bias;
        if (size < 0) return false;
        out.frames.push_back(static_cast<std::uint64_t>(size));
    }
    return true;
}

}  // namespace

std::optional<Lacing> lacing_of(Bytes start, std::uint64_t size) {
    const auto track = ebml_number(start);
    if (!track || start.size() < track->bytes + 3) return std::nullopt;
    Lacing out;
    out.head = track->bytes + 3;
    const auto kind = start[out.head - 1] >> 1 & 3;
    if (kind == 0) {
        out.frames.push_back(size - out.head);
        return out;
    }
    if (out.head >= start.size()) return std::nullopt;
    const std::size_t frames = start[out.head++] + 1u;
    constexpr int xiph = 1, fixed = 2;
    if (kind == fixed) {
        if ((size - out.head) % frames != 0) return std::nullopt;
        out.frames.assign(frames, (size - out.head) / frames);
        return out;
    }
    if (!(kind == xiph ? read_xiph(start, frames - 1, out) : read_differences(start, frames - 1, out)))
        return std::nullopt;
    const auto told = std::accumulate(out.frames.begin(), out.frames.end(), std::uint64_t{out.head});
    if (told > size) return std::nullopt;
    out.frames.push_back(size - told);
    return out;
}

MatroskaTracks::MatroskaTracks(Bytes body) {
    constexpr std::uint32_t track_entry = 0xAE;
    while (const auto head = ebml_head(body)) {
        const auto size =
            static_cast<std::size_t>(std::min<std::uint64_t>(head->size, body.size() - head->head));
        if (head->id == track_entry) read_entry(body.subspan(head->head, size));
        body = body.subspan(head->head + size);
    }
}

void MatroskaTracks::read_entry(Bytes entry) {
    constexpr std::uint32_t track_number = 0xD7, codec_id = 0x86, codec_private = 0x63A2,
                            content_encodings = 0x6D80;
    std::uint64_t number = 0;
    std::string_view codec;
    Bytes setup;
    bool encoded = false;
    while (const auto head = ebml_head(entry)) {
        const auto size =
            static_cast<std::size_t>(std::min<std::uint64_t>(head->size, entry.size() - head->head));
        const auto body = entry.subspan(head->head, size);
        if (head->id == track_number) number = ebml_unsigned(body);
        if (head->id == codec_id) codec = string_of(body);
        if (head->id == codec_private) setup = body;
        if (head->id == content_encodings) encoded = true;
        entry = entry.subspan(head->head + size);
    }
    // More than anybody records; each has a decoder.
    constexpr std::size_t most_tracks = 256;
    if (tracks_.size() < most_tracks) tracks_[number] = encoded ? nullptr : unit_check(codec, setup);
}

bool MatroskaTracks::block_holds(Content& content, std::uint64_t offset, std::uint64_t size,
                                 Density& density) {
    ByteVector start(static_cast<std::size_t>(std::min<std::uint64_t>(size, most_lacing)));
    start.resize(content.read(offset, start));
    const auto number = ebml_number(start);
    const auto track = number ? tracks_.find(number->value) : tracks_.end();
    if (track == tracks_.end()) return false;
    const auto lacing = lacing_of(start, size);
    if (!lacing) return false;
    if (!track->second) {
        density.add(size);
        return readable(content, offset, size);
    }
    auto at = offset + lacing->head;
    for (const auto frame : lacing->frames) {
        if (frame > 0 && !track->second->holds(content, at, frame, density)) return false;
        at += frame;
    }
    return true;
}

}  // namespace undershelf::content
