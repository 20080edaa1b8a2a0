#include "shelf/packing.hpp"

#include <algorithm>
#include <bit>
#include <nlohmann/json.hpp>

#include "base/json_text.hpp"

namespace undershelf {

namespace {

/// Little-endian base-128 numbers, seven bits a byte, the high bit set on all but the last.
class Packer {
  public:
    void number(std::uint64_t v) {
        while (v >= 0x80) {
            out_.push_back(static_cast<std::uint8_t>(v | 0x80));
            v >>= 7;
        }
        out_.push_back(static_cast<std::uint8_t>(v));
    }
    /// Small differences of either sign stay short.
    void difference(std::uint64_t from, std::uint64_t to) {
        const auto d = static_cast<std::int64_t>(to - from);
        number(static_cast<std::uint64_t>(d) << 1 ^ static_cast<std::uint64_t>(d >> 63));
    }
    void bytes(Bytes b) {
        number(b.size());
        out_.insert(out_.end(), b.begin(), b.end());
    }
    void real(float f) {
        const auto bits = std::bit_cast<std::uint32_t>(f);
        for (int i = 0; i < 4; ++i) out_.push_back(static_cast<std::uint8_t>(bits >> 8 * i));
    }
    ByteVector take() { return std::move(out_); }

  private:
    ByteVector out_;
};

class Unpacker {
  public:
    explicit Unpacker(Bytes in) : in_(in) {}
    bool more() const { return good_ && !in_.empty(); }
    bool good() const { return good_; }

    std::uint64_t number() {
        std::uint64_t v = 0;
        for (unsigned shift = 0; shift < 64; shift += 7) {
            if (in_.empty()) break;
            const auto b = in_.front();
            in_ = in_.subspan(1);
            v |= static_cast<std::uint64_t>(b & 0x7F) << shift;
            if (!(b & 0x80)) return v;
        }
        good_ = false;
        return 0;
    }
    std::uint64_t difference(std::uint64_t from) {
        const auto z = number();
        return from + ((z >> 1) ^ (~(z & 1) + 1));
    }
    Bytes bytes() {
        const auto n = number();
        if (n > in_.size()) {
            good_ = false;
            return {};
        }
        const auto out = in_.first(static_cast<std::size_t>(n));
        in_ = in_.subspan(static_cast<std::size_t>(n));
        return out;
    }
    float real() {
        if (in_.size() < 4) {
            good_ = false;
            return 0;
        }
        std::uint32_t bits = 0;
        for (int i = 0; i < 4; ++i)
            bits |= static_cast<std::uint32_t>(in_[static_cast<std::size_t>(i)]) << 8 * i;
        in_ = in_.subspan(4);
        return std::bit_cast<float>(bits);
    }

  private:
    Bytes in_;
    bool good_ = true;
};

void pack_ranges_into(Packer& p, const std::vector<ByteRange>& ranges) {
    std::uint64_t at = 0;
    for (const auto& r : ranges) {
        p.difference(at, r.offset);
        p.number(r.length);
        at = r.end();
    }
}

std::uint64_t head_of(const Piece& p) {
    return static_cast<std::uint64_t>(p.kind) | static_cast<std::uint64_t>(p.known) << 3 |
           static_cast<std::uint64_t>(p.codec) << 4;
}

constexpr std::uint64_t furthest = (1ull << 63) - 1;  ///< bytes, of a file or a source
/// NTFS packs 64 KiB at a time, HFS+ as much; clusters may be larger than that.
constexpr std::uint64_t longest_unit = 16 << 20;

/// Could a reader have made it? `after`: the end of the piece before.
bool is_sound(const Piece& p, std::uint64_t after) {
    if (p.kind > PieceKind::missing || p.codec > Codec::zlib_chunk) return false;
    if (p.offset < after || p.offset > furthest || p.length > furthest - p.offset) return false;
    if (p.source > furthest || p.length > furthest - p.source) return false;
    if (p.kind != PieceKind::packed) return true;
    std::uint64_t read = 0;
    for (const auto& r : p.input) {
        if (r.offset > furthest || r.length > longest_unit) return false;
        read += r.length;
        if (read > longest_unit) return false;
    }
    return p.length <= longest_unit;
}

}  // namespace

ByteVector pack_pieces(const std::vector<Piece>& pieces) {
    Packer p;
    std::uint64_t file_at = 0, source_at = 0;
    for (const auto& piece : pieces) {
        p.number(head_of(piece));
        p.difference(file_at, piece.offset);
        p.number(piece.length);
        file_at = piece.offset + piece.length;
        if (piece.kind == PieceKind::stored || piece.kind == PieceKind::inlined) {
            p.difference(source_at, piece.source);
            source_at = piece.source + piece.length;
        }
        if (piece.kind == PieceKind::inlined) p.bytes(piece.bytes);
        if (piece.kind == PieceKind::packed) {
            p.number(piece.input.size());
            pack_ranges_into(p, piece.input);
        }
    }
    return p.take();
}

std::vector<Piece> unpack_pieces(Bytes packed) {
    Unpacker u(packed);
    std::vector<Piece> out;
    std::uint64_t file_at = 0, source_at = 0;
    while (u.more()) {
        Piece piece;
        const auto head = u.number();
        piece.kind = static_cast<PieceKind>(head & 7);
        piece.known = head & 8;
        piece.codec = static_cast<Codec>(head >> 4 & 15);
        piece.offset = u.difference(file_at);
        piece.length = u.number();
        file_at = piece.offset + piece.length;
        if (piece.kind == PieceKind::stored || piece.kind == PieceKind::inlined) {
            piece.source = u.difference(source_at);
            source_at = piece.source + piece.length;
        }
        if (piece.kind == PieceKind::inlined) {
            const auto b = u.bytes();
            piece.bytes.assign(b.begin(), b.end());
        }
        if (piece.kind == PieceKind::packed) {
            std::uint64_t at = 0;
            for (auto n = u.number(); n > 0 && u.more(); --n) {
                const auto offset = u.difference(at);
                piece.input.push_back({offset, u.number()});
                at = piece.input.back().end();
            }
        }
        if (!u.good() || !is_sound(piece, out.empty() ? 0 : out.back().offset + out.back().length)) break;
        out.push_back(std::move(piece));
    }
    return out;
}

ByteVector pack_ranges(const std::vector<ByteRange>& ranges) {
    Packer p;
    pack_ranges_into(p, ranges);
    return p.take();
}

std::vector<ByteRange> unpack_ranges(Bytes packed) {
    Unpacker u(packed);
    std::vector<ByteRange> out;
    std::uint64_t at = 0;
    while (u.more()) {
        const auto offset = u.difference(at);
        const auto length = u.number();
        if (!u.good() || offset > furthest || length > furthest - offset) break;
        out.push_back({offset, length});
        at = offset + length;
    }
    return out;
}

ByteVector pack_evidence(const std::vector<Evidence>& evidence) {
    Packer p;
    for (const auto& e : evidence) {
        p.number(static_cast<std::uint64_t>(e.fact));
        p.number(e.a);
        p.number(e.b);
        p.bytes({reinterpret_cast<const std::uint8_t*>(e.text.data()), e.text.size()});
        p.real(e.chance);
        p.real(e.left);
    }
    return p.take();
}

std::vector<Evidence> unpack_evidence(Bytes packed) {
    Unpacker u(packed);
    std::vector<Evidence> out;
    while (u.more()) {
        Evidence e;
        e.fact = static_cast<Fact>(u.number());
        e.a = u.number();
        e.b = u.number();
        const auto text = u.bytes();
        e.text.assign(text.begin(), text.end());
        e.chance = u.real();
        e.left = u.real();
        if (!u.good()) break;
        out.push_back(std::move(e));
    }
    return out;
}

std::string pack_earlier_names(const std::vector<Evidence>& evidence) {
    std::vector<std::string> names;
    for (const auto& e : evidence) {
        if (names.size() == most_earlier_names) break;
        if (e.fact == Fact::old_name && !(e.b & old_name_bit::incomplete) &&
            std::find(names.begin(), names.end(), e.text) == names.end())
            names.push_back(e.text);
    }
    return names.empty() ? std::string() : json_text(nlohmann::json(names));
}

std::vector<std::string> unpack_earlier_names(std::string_view packed) {
    const auto names = json_in(packed);
    std::vector<std::string> out;
    if (!names.is_array()) return out;
    for (const auto& name : names) {
        if (name.is_string()) out.push_back(name.get<std::string>());
    }
    return out;
}

}  // namespace undershelf
