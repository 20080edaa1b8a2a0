#include "volume/content_stream.hpp"

#include <algorithm>
#include <cstring>

#include "volume/codec.hpp"

namespace undershelf {

ContentStream::ContentStream(const Source& source, std::vector<Piece> pieces, std::uint64_t size)
    : source_(source), pieces_(std::move(pieces)), size_(size) {}

std::vector<ByteRange> ContentStream::read(std::uint64_t offset, MutableBytes out) {
    std::vector<ByteRange> missing;
    if (offset >= size_) return missing;
    out = out.first(static_cast<std::size_t>(std::min<std::uint64_t>(out.size(), size_ - offset)));
    const ByteRange wanted{offset, out.size()};
    auto piece = std::upper_bound(pieces_.begin(), pieces_.end(), offset,
                                  [](std::uint64_t at, const Piece& p) { return at < p.offset + p.length; });
    auto at = offset;
    const auto leave_out = [&](std::uint64_t to) {
        if (to <= at) return;
        std::memset(out.data() + (at - offset), 0, static_cast<std::size_t>(to - at));
        missing.push_back({at, to - at});
        at = to;
    };
    for (; piece != pieces_.end() && piece->offset < wanted.end(); ++piece) {
        leave_out(piece->offset);
        const auto part = overlap(wanted, {piece->offset, piece->length});
        if (!part) continue;
        read_piece(*piece, part->offset,
                   out.subspan(static_cast<std::size_t>(part->offset - offset),
                               static_cast<std::size_t>(part->length)),
                   missing);
        at = part->end();
    }
    leave_out(wanted.end());
    return RangeSet(std::move(missing)).ranges();
}

ByteVector ContentStream::first(std::size_t most) {
    ByteVector out(static_cast<std::size_t>(std::min<std::uint64_t>(most, size_)));
    read(0, out);
    return out;
}

void ContentStream::read_piece(const Piece& piece, std::uint64_t offset, MutableBytes out,
                               std::vector<ByteRange>& missing) {
    const auto within = offset - piece.offset;
    const auto zero = [&] { std::memset(out.data(), 0, out.size()); };
    switch (piece.kind) {
        case PieceKind::stored:
            for (const auto& m : source_.read(piece.source + within, out)) {
                missing.push_back({m.offset - piece.source + piece.offset, m.length});
            }
            return;
        case PieceKind::zeros:
            zero();
            return;
        case PieceKind::missing:
            zero();
            missing.push_back({offset, out.size()});
            return;
        case PieceKind::inlined:
        case PieceKind::packed:
            break;
    }
    const bool packed = piece.kind == PieceKind::packed;
    if (packed && unpacked_ != &piece) unpack(piece);
    const auto& bytes = packed ? unpacked_bytes_ : piece.bytes;
    const auto there =
        within >= bytes.size()
            ? 0
            : std::min<std::size_t>(out.size(), bytes.size() - static_cast<std::size_t>(within));
    if (there) std::memcpy(out.data(), bytes.data() + within, there);
    std::memset(out.data() + there, 0, out.size() - there);
    if (packed && !unpacked_whole_) missing.push_back({offset, out.size()});
    if (there < out.size()) missing.push_back({offset + there, out.size() - there});
}

/// A unit of which any byte is unreadable or broken counts as missing as a whole: nothing says where the
/// damage in the output begins.
void ContentStream::unpack(const Piece& piece) {
    ByteVector input;
    bool readable = true;
    for (const auto& r : piece.input) {
        const auto at = input.size();
        input.resize(at + static_cast<std::size_t>(r.length));
        readable &= source_.read(r.offset, MutableBytes(input).subspan(at)).empty();
    }
    unpacked_ = &piece;
    unpacked_whole_ = false;
    unpacked_bytes_.clear();
    if (!readable) return;
    if (auto bytes = decode(piece.codec, input, static_cast<std::size_t>(piece.length))) {
        unpacked_bytes_ = std::move(*bytes);
        unpacked_whole_ = true;
    }
}

}  // namespace undershelf
