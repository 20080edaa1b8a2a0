#include "volume/codec.hpp"

#include <algorithm>

#include "volume/inflate.hpp"

namespace undershelf {

namespace {

/// One LZNT1 chunk ([MS-XCA] section 2.5): groups of eight tokens after a flag byte; a back reference splits
/// its 16 bits into displacement and length by how far the chunk has been unpacked.
bool unpack_lznt1_chunk(Bytes in, ByteVector& out, std::size_t most) {
    const auto start = out.size();
    std::size_t at = 0;
    while (at < in.size()) {
        unsigned flags = in[at++];
        for (int bit = 0; bit < 8 && at < in.size(); ++bit, flags >>= 1) {
            if (!(flags & 1)) {
                if (out.size() - start >= 4096) return false;
                out.push_back(in[at++]);
                continue;
            }
            if (in.size() - at < 2) return false;
            const unsigned token = in[at] | in[at + 1] << 8;
            at += 2;
            const auto position = out.size() - start;
            if (position == 0) return false;
            unsigned length_bits = 12;
            for (auto p = position - 1; p >= 16; p >>= 1) --length_bits;
            const auto length = (token & ((1u << length_bits) - 1)) + 3;
            const auto back = (token >> length_bits) + 1;
            if (back > position || position + length > 4096) return false;
            for (unsigned i = 0; i < length; ++i) out.push_back(out[out.size() - back]);
        }
    }
    return out.size() <= start + 4096 && out.size() <= most + 4096;
}

std::optional<ByteVector> decode_lznt1(Bytes in, std::size_t length) {
    ByteVector out;
    std::size_t at = 0;
    while (at + 2 <= in.size() && out.size() < length) {
        const unsigned header = in[at] | in[at + 1] << 8;
        if (header == 0) break;
        const std::size_t size = (header & 0x0FFF) + 1;
        at += 2;
        if (size > in.size() - at || (header & 0x7000) != 0x3000) return std::nullopt;
        const auto body = in.subspan(at, size);
        // Every chunk but the last stands for 4096 bytes; a shorter one is filled with zeros.
        const auto chunk_start = out.size();
        if (header & 0x8000) {
            if (!unpack_lznt1_chunk(body, out, length)) return std::nullopt;
        } else {
            out.insert(out.end(), body.begin(), body.end());
        }
        at += size;
        if (out.size() < length) out.resize(std::max(out.size(), std::min(length, chunk_start + 4096)));
    }
    out.resize(length);
    return out;
}

}  // namespace

std::optional<ByteVector> decode(Codec codec, Bytes input, std::size_t length) {
    switch (codec) {
        case Codec::lznt1:
            return decode_lznt1(input, length);
        case Codec::zlib_chunk:
            return inflate_zlib(input, length);
        case Codec::none:
            break;
    }
    return std::nullopt;
}

}  // namespace undershelf
