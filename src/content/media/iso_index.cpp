#include "content/media/iso_index.hpp"

#include <algorithm>

namespace undershelf::content {

namespace {

using boost::endian::big_uint16_buf_t;
using boost::endian::big_uint32_buf_t;
using boost::endian::big_uint64_buf_t;

std::uint32_t u16(Bytes b, std::size_t at) {
    const auto n = load<big_uint16_buf_t>(b, at);
    return n ? n->value() : 0;
}
std::uint32_t u32(Bytes b, std::size_t at) {
    const auto n = load<big_uint32_buf_t>(b, at);
    return n ? n->value() : 0;
}
std::uint64_t u64(Bytes b, std::size_t at) {
    const auto n = load<big_uint64_buf_t>(b, at);
    return n ? n->value() : 0;
}

/// One that every writer writes.
const Box& needed(const Boxes& boxes, const Box& parent, std::uint32_t type) {
    const auto* box = boxes.first(type);
    if (!box) throw IndexWrong{parent.at, "a box is missing in its index"};
    return *box;
}

Boxes children_of(const Box& parent) {
    auto out = boxes_in(parent.body, parent.at + 8);
    if (out.wrong_at) throw IndexWrong{*out.wrong_at, "its index makes no sense"};
    return out;
}

/// The rows of a table of `width` bytes each after a head of `head` bytes that ends in their number.
Bytes rows_of(const Box& box, std::size_t head, std::size_t width) {
    const std::uint64_t count = u32(box.body, head - 4);
    if (box.body.size() < head || count > (box.body.size() - head) / width)
        throw IndexWrong{box.at, "a table of its index is cut off"};
    return box.body.subspan(head, static_cast<std::size_t>(count) * width);
}

// ISO/IEC 14496-1, 7.2.6: descriptors of a tag, a length in groups of seven bits, and a body.
Bytes descriptor_in(Bytes from, std::uint8_t tag) {
    while (from.size() >= 2) {
        const auto found = from[0];
        std::size_t at = 1, length = 0;
        for (int i = 0; i < 4 && at < from.size(); ++i) {
            const auto b = from[at++];
            length = length << 7 | (b & 0x7F);
            if (!(b & 0x80)) break;
        }
        const auto body = from.subspan(at, std::min(length, from.size() - at));
        if (found == tag) return body;
        from = from.subspan(at + body.size());
    }
    return {};
}

/// The AudioSpecificConfig in an `esds` box, when it is of AAC.
Bytes aac_setup(Bytes esds) {
    if (esds.size() < 4) return {};
    auto stream = descriptor_in(esds.subspan(4), 3);
    if (stream.size() < 3) return {};
    const auto flags = stream[2];
    std::size_t skip = 3 + (flags & 0x80 ? 2u : 0) + (flags & 0x20 ? 2u : 0);
    if (flags & 0x40 && skip < stream.size()) skip += 1u + stream[skip];
    if (skip >= stream.size()) return {};
    const auto config = descriptor_in(stream.subspan(skip), 4);
    constexpr std::uint8_t mpeg4_audio = 0x40, mpeg2_aac_main = 0x66, mpeg2_aac_ssr = 0x68;
    if (config.size() < 13) return {};
    if (config[0] != mpeg4_audio && (config[0] < mpeg2_aac_main || config[0] > mpeg2_aac_ssr)) return {};
    return descriptor_in(config.subspan(13), 5);
}

constexpr std::size_t visual_head = 78;  ///< bytes of a sample description before the boxes in it
std::size_t sound_head(Bytes setup) {
    const auto version = u16(setup, 8);
    return version == 2 ? 64 : version == 1 ? 44 : 28;
}

/// A box somewhere in a sample description, also within QuickTime's `wave`.
Bytes box_within(Bytes setup, std::size_t head, std::uint32_t type) {
    if (setup.size() <= head) return {};
    const auto boxes = boxes_in(setup.subspan(head), 0);
    if (const auto* box = boxes.first(type)) return box->body;
    const auto* wave = boxes.first(box_type("wave"));
    if (!wave) return {};
    const auto inner = boxes_in(wave->body, 0);
    const auto* box = inner.first(type);
    return box ? box->body : Bytes();
}

}  // namespace

IsoTrack::IsoTrack(const Box& trak) {
    const auto boxes = children_of(trak);
    tables_at_ = trak.at;
    const auto& tkhd = needed(boxes, trak, box_type("tkhd"));
    id_ = u32(tkhd.body, tkhd.body.empty() || tkhd.body[0] == 0 ? 12 : 20);
    const auto* mdia = boxes.first(box_type("mdia"));
    untold_ = !mdia || !read_media(*mdia);
}

bool IsoTrack::read_media(const Box& mdia) {
    const auto media = children_of(mdia);
    if (const auto* hdlr = media.first(box_type("hdlr"))) handler_ = u32(hdlr->body, 8);
    const auto* minf = media.first(box_type("minf"));
    if (!minf) return false;
    const auto information = children_of(*minf);
    if (const auto* dinf = information.first(box_type("dinf"))) {
        // A reference with the first flag set is to this very file.
        const auto inner = boxes_in(dinf->body, 0);
        const auto* dref = inner.first(box_type("dref"));
        if (dref && dref->body.size() >= 20) elsewhere_ = (dref->body[19] & 1) == 0;
    }
    const auto* stbl = information.first(box_type("stbl"));
    if (!stbl) return false;
    tables_at_ = stbl->at;
    return read_tables(children_of(*stbl));
}

bool IsoTrack::read_tables(const Boxes& stbl) {
    const auto *stsd = stbl.first(box_type("stsd")), *stsc = stbl.first(box_type("stsc"));
    const auto *stco = stbl.first(box_type("stco")), *co64 = stbl.first(box_type("co64"));
    const bool sizes = stbl.first(box_type("stsz")) || stbl.first(box_type("stz2"));
    if (stsd) read_description(*stsd);
    if (!sizes || !stsc || !(stco || co64)) return false;
    read_sizes(stbl);
    for (auto rows = rows_of(*stsc, 8, 12); !rows.empty(); rows = rows.subspan(12)) {
        const ChunkRun run{u32(rows, 0), u32(rows, 4)};
        if (run.first_chunk == 0 || (!runs_.empty() && run.first_chunk <= runs_.back().first_chunk))
            throw IndexWrong{stsc->at, "the chunks of its index are out of order"};
        runs_.push_back(run);
    }
    wide_offsets_ = co64 != nullptr;
    offsets_ = rows_of(co64 ? *co64 : *stco, 8, wide_offsets_ ? 8 : 4);
    return true;
}

void IsoTrack::read_description(const Box& stsd) {
    if (stsd.body.size() < 8) throw IndexWrong{stsd.at, "a table of its index is cut off"};
    const auto entries = boxes_in(stsd.body.subspan(8), stsd.at + 16);
    if (entries.boxes.empty()) return;
    codec_ = entries.boxes.front().type;
    setup_ = entries.boxes.front().body;
}

void IsoTrack::read_sizes(const Boxes& stbl) {
    if (const auto* stz2 = stbl.first(box_type("stz2"))) {
        size_bits_ = stz2->body.size() > 7 ? stz2->body[7] : 0;
        if (size_bits_ != 4 && size_bits_ != 8 && size_bits_ != 16)
            throw IndexWrong{stz2->at, "the sizes of its index make no sense"};
        samples_ = u32(stz2->body, 8);
        if ((samples_ * size_bits_ + 7) / 8 + 12 > stz2->body.size())
            throw IndexWrong{stz2->at, "a table of its index is cut off"};
        sizes_ = stz2->body.subspan(12);
        return;
    }
    const auto& stsz = *stbl.first(box_type("stsz"));
    constant_size_ = u32(stsz.body, 4);
    samples_ = u32(stsz.body, 8);
    if (constant_size_ == 0) sizes_ = rows_of(stsz, 12, 4);
    if (constant_size_ != 1 || handler_ != box_type("soun")) return;
    // QuickTime counts the samples of sound one by one, however many bytes one, or a packet of them, takes.
    const auto version = u16(setup_, 8);
    const std::uint64_t bytes = version == 2   ? u32(setup_, 56)
                                : version == 1 ? u32(setup_, 36)
                                               : std::uint64_t(u16(setup_, 16)) * (u16(setup_, 18) / 8);
    const std::uint64_t group = version == 2 ? u32(setup_, 60) : version == 1 ? u32(setup_, 28) : 1;
    if (bytes > 0 && group > 0) {
        constant_size_ = bytes;
        constant_group_ = group;
    }
}

std::unique_ptr<UnitCheck> IsoTrack::unit_check() const {
    std::unique_ptr<UnitCheck> out;
    const auto avc = box_within(setup_, visual_head, box_type("avcC"));
    const auto hevc = box_within(setup_, visual_head, box_type("hvcC"));
    if (avc.size() >= 5) {
        out = nal_units((avc[4] & 3u) + 1);
    } else if (hevc.size() >= 22) {
        out = nal_units((hevc[21] & 3u) + 1);
    } else if (codec_ == box_type("mp4a")) {
        out = aac_units(aac_setup(box_within(setup_, sound_head(setup_), box_type("esds"))));
    } else if (codec_ == box_type("jpeg")) {
        out = jpeg_units();
    }
    return out ? std::move(out) : unknown_units();
}

std::uint64_t IsoTrack::chunk_offset(std::size_t chunk) const {
    return wide_offsets_ ? u64(offsets_, chunk * 8) : u32(offsets_, chunk * 4);
}

std::uint64_t IsoTrack::sample_size(std::uint64_t sample) const {
    const auto i = static_cast<std::size_t>(sample);
    if (size_bits_ == 32) return u32(sizes_, i * 4);
    if (size_bits_ == 16) return u16(sizes_, i * 2);
    return size_bits_ == 8 ? sizes_[i] : i % 2 ? sizes_[i / 2] & 15u : sizes_[i / 2] >> 4u;
}

bool IsoTrack::take_chunk(std::uint64_t offset, std::uint64_t first, std::uint32_t count,
                          const TakeSample& take) const {
    if (constant_size_ != 0) {
        const auto size = count / constant_group_ * constant_size_ +
                          count % constant_group_ * constant_size_ / constant_group_;
        return take({offset, size, count == 1});
    }
    for (std::uint32_t i = 0; i < count; ++i) {
        const auto size = sample_size(first + i);
        if (size > 0 && !take({offset, size})) return false;
        offset += size;
    }
    return true;
}

void IsoTrack::for_each_sample(const TakeSample& take) const {
    if (elsewhere_) return;
    const auto chunks = offsets_.size() / (wide_offsets_ ? 8 : 4);
    std::uint64_t sample = 0;
    std::size_t run = 0;
    for (std::size_t chunk = 0; chunk < chunks && sample < samples_; ++chunk) {
        while (run + 1 < runs_.size() && runs_[run + 1].first_chunk <= chunk + 1) ++run;
        if (runs_.empty() || runs_[run].first_chunk > chunk + 1) break;
        const auto count = runs_[run].samples;
        if (count > samples_ - sample) throw IndexWrong{tables_at_, "the tables of its index disagree"};
        if (!take_chunk(chunk_offset(chunk), sample, count, take)) return;
        sample += count;
    }
    if (sample < samples_) throw IndexWrong{tables_at_, "the tables of its index disagree"};
}

IsoIndex::IsoIndex(Bytes moov) {
    const auto boxes = children_of({0, static_cast<std::size_t>(-8), moov});
    needed(boxes, {}, box_type("mvhd"));
    for (const auto& box : boxes.boxes) {
        // More than anybody records; each may have a decoder.
        constexpr std::size_t most_tracks = 256;
        if (box.type == box_type("trak") && tracks.size() == most_tracks)
            throw IndexWrong{box.at, "its index has more tracks than anybody records"};
        if (box.type == box_type("trak")) tracks.emplace_back(box);
        if (box.type != box_type("mvex")) continue;
        for (const auto& trex : children_of(box).boxes) {
            if (trex.type == box_type("trex")) defaults[u32(trex.body, 4)].sample_size = u32(trex.body, 16);
        }
    }
}

namespace {

/// Where the samples of a track fragment are, as its head (`tfhd`) says.
struct FragmentHead {
    std::uint32_t track = 0;
    std::uint64_t base = 0;
    std::uint32_t sample_size = 0;
};

FragmentHead read_fragment_head(const Box& tfhd, std::uint64_t moof_at, std::uint64_t before,
                                const IsoIndex& index) {
    const auto flags = u32(tfhd.body, 0) & 0xFFFFFF;
    FragmentHead out;
    out.track = u32(tfhd.body, 4);
    if (const auto it = index.defaults.find(out.track); it != index.defaults.end())
        out.sample_size = it->second.sample_size;
    std::size_t at = 8;
    // Without a base of its own, and no word that it is the box, a fragment follows the one before.
    out.base = flags & 0x020000 ? moof_at : before;
    if (flags & 0x000001) {
        out.base = u64(tfhd.body, at);
        at += 8;
    }
    at += (flags & 0x000002 ? 4u : 0) + (flags & 0x000008 ? 4u : 0);
    if (flags & 0x000010) out.sample_size = u32(tfhd.body, at);
    return out;
}

struct RunSamples {
    std::uint64_t end = 0;
    bool go_on = true;
};

RunSamples take_run(const Box& trun, const FragmentHead& head, std::uint64_t at,
                    const std::function<bool(std::uint32_t, const IsoSample&)>& take) {
    const auto flags = u32(trun.body, 0) & 0xFFFFFF;
    const auto count = u32(trun.body, 4);
    std::size_t row = 8;
    if (flags & 0x000001) {
        at = head.base +
             static_cast<std::uint64_t>(std::int64_t{static_cast<std::int32_t>(u32(trun.body, row))});
        row += 4;
    }
    if (flags & 0x000004) row += 4;
    const std::size_t before_size = flags & 0x000100 ? 4 : 0;
    std::size_t width = before_size;
    for (const auto flag : {0x000200u, 0x000400u, 0x000800u}) width += flags & flag ? 4u : 0;
    if (row > trun.body.size() || (width > 0 && count > (trun.body.size() - row) / width))
        throw IndexWrong{trun.at, "a table of its index is cut off"};
    if (!(flags & 0x000200)) {
        const auto size = std::uint64_t(count) * head.sample_size;
        return {at + size, size == 0 || take(head.track, {at, size, count == 1})};
    }
    for (std::uint32_t i = 0; i < count; ++i, row += width) {
        const std::uint64_t size = u32(trun.body, row + before_size);
        if (size > 0 && !take(head.track, {at, size})) return {at, false};
        at += size;
    }
    return {at};
}

}  // namespace

void for_each_fragment_sample(Bytes body, std::uint64_t moof_at, const IsoIndex& index,
                              const std::function<bool(std::uint32_t track, const IsoSample&)>& take) {
    const auto boxes = children_of({0, static_cast<std::size_t>(-8), body});
    auto at = moof_at;
    for (const auto& traf : boxes.boxes) {
        if (traf.type != box_type("traf")) continue;
        const auto inner = children_of(traf);
        const auto head = read_fragment_head(needed(inner, traf, box_type("tfhd")), moof_at, at, index);
        at = head.base;
        for (const auto& trun : inner.boxes) {
            if (trun.type != box_type("trun")) continue;
            const auto taken = take_run(trun, head, at, take);
            if (!taken.go_on) return;
            at = taken.end;
        }
    }
}

}  // namespace undershelf::content
