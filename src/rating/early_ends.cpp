#include "rating/early_ends.hpp"

#include <algorithm>

namespace undershelf {

namespace {
constexpr std::uint64_t sector = 512;
/// What ends so little early may have something of its own there.
constexpr std::uint64_t least_early = 64, share_early = 64;
/// Fewer zeros than these may be anything.
constexpr std::uint64_t fewest_zeros = 16;

bool are_zeros(ContentStream& stream, std::uint64_t from, std::uint64_t length) {
    ByteVector bytes(length);
    return stream.read(from, bytes).empty() && all_zero(bytes);
}
}  // namespace

bool holds_a_shorter_file(const Source& source, const std::vector<Piece>& pieces, std::uint64_t size,
                          std::uint64_t holds_to) {
    if (holds_to >= size || size - holds_to <= std::max(least_early, size / share_early)) return false;
    const auto piece = std::find_if(pieces.begin(), pieces.end(), [&](const Piece& p) {
        return ByteRange{p.offset, p.length}.contains(holds_to);
    });
    if (piece == pieces.end() || piece->kind != PieceKind::stored) return false;
    const auto place = piece->source + (holds_to - piece->offset);
    const auto zeros = std::min(sector - place % sector, size - holds_to);
    ContentStream stream(source, pieces, size);
    if (zeros < fewest_zeros || place % sector == 0 || !are_zeros(stream, holds_to, zeros)) return false;
    return size % sector != 0 || !are_zeros(stream, size - sector, sector);
}

}  // namespace undershelf
