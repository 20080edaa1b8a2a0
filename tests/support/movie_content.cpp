// Small movies and sounds. Their pictures are noise in the frames that containers ask for.

#include <array>
#include <random>

#include "support/file_parts.hpp"
#include "support/memory_content.hpp"

namespace undershelf::test {

namespace {

ByteVector box(std::string_view type, const ByteVector& body) {
    ByteVector out;
    append_number(out, body.size() + 8, 4, true);
    append(out, type);
    append(out, body);
    return out;
}
ByteVector joined(std::initializer_list<ByteVector> parts) {
    ByteVector out;
    for (const auto& p : parts) append(out, p);
    return out;
}
ByteVector numbers(std::initializer_list<std::uint64_t> values, int size = 4) {
    ByteVector out;
    for (const auto v : values) append_number(out, v, size, true);
    return out;
}

/// An access unit: NAL units after their lengths. No byte of their data is 0.
ByteVector avc_sample(std::mt19937& random, std::size_t unit) {
    ByteVector out;
    for (std::size_t n = 1 + random() % 2; n > 0; --n) {
        const auto size = unit + random() % unit;
        append_number(out, size, 4, true);
        out.push_back(0x41);
        for (std::size_t i = 1; i < size; ++i) out.push_back(static_cast<std::uint8_t>(1 + random() % 255));
    }
    return out;
}
const ByteVector silent_aac_frame{0x21, 0x10, 0x04, 0x60, 0x8c, 0x1c};

struct Track {
    std::uint64_t id;
    std::string_view handler;
    ByteVector description;
    std::vector<ByteVector> samples;
};

Track avc_track(std::size_t samples, std::size_t unit) {
    auto random = random_numbers(31);
    Track out{1, "vide", {}, {}};
    auto entry = ByteVector(78);
    append(entry, box("avcC", {1, 0x64, 0, 0x1F, 0xFF, 0xE0, 0}));
    out.description = box("avc1", entry);
    for (std::size_t i = 0; i < samples; ++i) out.samples.push_back(avc_sample(random, unit));
    return out;
}
Track aac_track(std::size_t samples) {
    Track out{2, "soun", {}, {}};
    auto entry = ByteVector(28);
    const ByteVector setup{0x12, 0x10};  // AAC-LC, 44100 Hz, stereo
    const auto specific = joined({{5, 2}, setup});
    ByteVector config{4, static_cast<std::uint8_t>(13 + specific.size()), 0x40};
    config.resize(15);
    append(config, specific);
    append(entry,
           box("esds",
               joined({ByteVector(4), {3, static_cast<std::uint8_t>(3 + config.size()), 0, 2, 0}, config})));
    out.description = box("mp4a", entry);
    out.samples.assign(samples, silent_aac_frame);
    return out;
}
Track jpeg_track(std::size_t samples) {
    Track out{1, "vide", box("jpeg", ByteVector(78)), {}};
    out.samples.assign(samples, jpeg_file());
    return out;
}

ByteVector track_box(const Track& t, std::uint64_t data_at, bool in_fragments) {
    ByteVector sizes;
    for (const auto& s : t.samples) append_number(sizes, s.size(), 4, true);
    const std::uint64_t count = in_fragments ? 0 : t.samples.size();
    if (in_fragments) sizes.clear();
    // All samples in one chunk.
    const auto chunk = in_fragments ? numbers({0, 0}) : numbers({0, 1, 1, count, 1});
    const auto offsets = in_fragments ? numbers({0, 0}) : numbers({0, 1, data_at});
    const auto stbl =
        box("stbl", joined({box("stsd", joined({numbers({0, 1}), t.description})),
                            box("stts", numbers({0, 1, count, 1})), box("stsc", chunk),
                            box("stsz", joined({numbers({0, 0, count}), sizes})), box("stco", offsets)}));
    const auto dref = box("dinf", box("dref", joined({numbers({0, 1}), box("url ", numbers({1}))})));
    ByteVector handler = numbers({0, 0});
    append(handler, t.handler);
    handler.resize(25);
    return box("trak", joined({box("tkhd", joined({numbers({3, 0, 0, t.id}), ByteVector(68)})),
                               box("mdia", joined({box("mdhd", ByteVector(24)), box("hdlr", handler),
                                                   box("minf", joined({dref, stbl}))}))}));
}

ByteVector movie_box(const std::vector<Track>& tracks, std::uint64_t data_at, bool in_fragments) {
    ByteVector body = box("mvhd", ByteVector(100));
    for (const auto& t : tracks) {
        append(body, track_box(t, data_at, in_fragments));
        for (const auto& s : t.samples) data_at += s.size();
    }
    if (in_fragments) {
        ByteVector extends;
        for (const auto& t : tracks) append(extends, box("trex", numbers({0, t.id, 1, 0, 0, 0})));
        append(body, box("mvex", extends));
    }
    return box("moov", body);
}

ByteVector media_box(const std::vector<Track>& tracks) {
    ByteVector body;
    for (const auto& t : tracks) {
        for (const auto& s : t.samples) append(body, s);
    }
    return box("mdat", body);
}

/// One fragment: an index that tells the samples' sizes, then the samples.
ByteVector fragment(const std::vector<Track>& tracks) {
    const auto with_base = [&](std::uint64_t data_at) {
        ByteVector body = box("mfhd", numbers({0, 1}));
        for (const auto& t : tracks) {
            auto rows = numbers({0x000201, t.samples.size(), data_at});
            for (const auto& s : t.samples) append_number(rows, s.size(), 4, true);
            append(body, box("traf", joined({box("tfhd", numbers({0x020000, t.id})), box("trun", rows)})));
            for (const auto& s : t.samples) data_at += s.size();
        }
        return box("moof", body);
    };
    const auto index = with_base(with_base(0).size() + 8);
    return joined({index, media_box(tracks)});
}

ByteVector movie(std::string_view brand, const std::vector<Track>& tracks, const Movie& how) {
    ByteVector brands;
    append(brands, brand);
    append_number(brands, 512, 4, true);
    append(brands, "isom");
    const auto head = box("ftyp", brands);
    if (how.fragments) return joined({head, movie_box(tracks, 0, true), fragment(tracks), fragment(tracks)});
    const auto index_size = movie_box(tracks, 0, false).size();
    if (how.index_first)
        return joined({head, movie_box(tracks, head.size() + index_size + 8, false), media_box(tracks)});
    return joined({head, box("free", {}), media_box(tracks), movie_box(tracks, head.size() + 16, false)});
}

/// An element with a size of four bytes, as writers leave room for it.
ByteVector element(std::uint64_t id, const ByteVector& body) {
    ByteVector out;
    int bytes = 1;
    while (id >> (8 * bytes)) ++bytes;
    append_number(out, id, bytes, true);
    append_number(out, 0x10000000 | body.size(), 4, true);
    append(out, body);
    return out;
}
ByteVector summed(std::uint64_t id, const ByteVector& body, bool with_sum) {
    if (!with_sum) return element(id, body);
    ByteVector sum{0xBF, 0x84};
    append_number(sum, crc_of(body), 4);
    return element(id, joined({sum, body}));
}
ByteVector text(std::string_view t) {
    return {t.begin(), t.end()};
}

ByteVector block(Blocks how, const ByteVector& frame) {
    if (how == Blocks::simple) return element(0xA3, joined({{0x81, 0, 0, 0}, frame}));
    if (how == Blocks::grouped)
        return element(0xA0, joined({element(0xA1, joined({{0x81, 0, 0, 0}, frame})), element(0x9B, {40})}));
    // Two frames, the size of the first in front.
    ByteVector sizes{0x81, 0, 0, 2, 1};
    for (auto left = frame.size();; left -= 255) {
        sizes.push_back(static_cast<std::uint8_t>(std::min<std::size_t>(left, 255)));
        if (left < 255) break;
    }
    return element(0xA3, joined({sizes, frame, frame}));
}

}  // namespace

ByteVector mp4_file(const Movie& how) {
    std::vector<Track> tracks;
    if (!how.sound_alone) tracks.push_back(avc_track(20, how.unit));
    tracks.push_back(aac_track(how.sound_alone ? 300 : 20));
    return movie(how.sound_alone ? "M4A " : "isom", tracks, how);
}

ByteVector mov_file() {
    return movie("qt  ", {jpeg_track(2)}, {});
}

ByteVector matroska_file(bool with_sums, Blocks blocks, std::string_view type, std::size_t cover_at) {
    auto random = random_numbers(4);
    const auto head = element(0x1A45DFA3, joined({element(0x4286, {1}), element(0x4282, text(type))}));
    const auto entry = joined({element(0xD7, {1}), element(0x83, {1}), element(0x86, text("V_MPEG4/ISO/AVC")),
                               element(0x63A2, {1, 0x64, 0, 0x1F, 0xFF, 0xE0, 0})});
    ByteVector body = joined({summed(0x1549A966, element(0x2AD7B1, {15, 0x42, 0x40}), with_sums),
                              summed(0x1654AE6B, element(0xAE, entry), with_sums)});
    for (int c = 0; c < 3; ++c) {
        ByteVector cluster = element(0xE7, {static_cast<std::uint8_t>(c)});
        for (int i = 0; i < 5; ++i) append(cluster, block(blocks, avc_sample(random, 200)));
        append(body, summed(0x1F43B675, cluster, with_sums));
    }
    append(body, element(0xEC, ByteVector(30)));
    if (cover_at) {
        // Heads before the picture: the segment's, that of attachments, and of each a file's and its data's.
        const std::size_t heads = 8 + 8 + 2 * (6 + 6);
        const auto attached = [](const ByteVector& file) { return element(0x61A7, element(0x465C, file)); };
        append(body,
               element(0x1941A469, joined({attached(libretto(cover_at - head.size() - body.size() - heads)),
                                           attached(png_file())})));
    }
    return joined({head, element(0x18538067, body)});
}

ByteVector mp3_file(bool counted, std::size_t frames) {
    auto random = random_numbers(3);
    ByteVector out;
    append(out, "ID3");
    append(out, ByteVector{3, 0, 0, 0, 0, 0, 20});
    out.resize(30);
    // MPEG-1 layer III, 128 kbit/s, 44100 Hz, stereo: 417 bytes a frame.
    const ByteVector head{0xFF, 0xFB, 0x90, 0x00};
    for (std::size_t i = 0; i < frames; ++i) {
        append(out, head);
        for (std::size_t b = 4; b < 417; ++b) out.push_back(static_cast<std::uint8_t>(random() % 255));
        if (i > 0 || !counted) continue;
        const auto at = out.size() - 417 + 4 + 32;
        std::copy_n("Xing\0\0\0\1", 8, out.begin() + static_cast<std::ptrdiff_t>(at));
        put_number(out, at + 8, frames - 1, 4, true);
    }
    append(out, "TAG");
    out.resize(out.size() + 125, ' ');
    return out;
}

ByteVector heif_file(bool av1) {
    auto random = random_numbers(12);
    constexpr std::size_t tiles = 6;
    std::vector<ByteVector> items;
    for (std::size_t i = 0; i < tiles; ++i) {
        auto item = avc_sample(random, 400);
        if (av1) {
            // One unit with its length in two bytes.
            const auto size = item.size();
            item.insert(item.begin(), {0x32, static_cast<std::uint8_t>(0x80 | (size & 0x7F)),
                                       static_cast<std::uint8_t>(size >> 7)});
        }
        items.push_back(std::move(item));
    }
    const auto with_data_at = [&](std::uint64_t at) {
        ByteVector places = numbers({0}), kinds = numbers({0});
        append(places, numbers({0x4400, tiles}, 2));
        append(kinds, numbers({tiles}, 2));
        for (std::size_t i = 0; i < tiles; ++i) {
            append(places, numbers({i + 1, 0, 1}, 2));
            append(places, numbers({at, items[i].size()}));
            at += items[i].size();
            auto kind = numbers({0x02000000});
            append(kind, numbers({i + 1, 0}, 2));
            append(kind, av1 ? "av01" : "hvc1");
            kind.push_back(0);
            append(kinds, box("infe", kind));
        }
        // Lengths of NAL units take four bytes.
        ByteVector configuration(23);
        configuration[21] = 3;
        const auto properties = box("iprp", box("ipco", box("hvcC", configuration)));
        return box("meta", joined({numbers({0}), box("iinf", kinds), properties, box("iloc", places)}));
    };
    ByteVector brands;
    append(brands, av1 ? "avif" : "heic");
    append(brands, numbers({0}));
    append(brands, "mif1");
    const auto head = box("ftyp", brands);
    ByteVector data;
    for (const auto& item : items) append(data, item);
    return joined({head, with_data_at(head.size() + with_data_at(0).size() + 8), box("mdat", data)});
}

}  // namespace undershelf::test
