#include "export/room.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>
#include <sys/statfs.h>

#include <algorithm>
#include <filesystem>

#include "base/error.hpp"
#include "base/saturating.hpp"
#include "volume/words.hpp"
#include "writing/storage.hpp"

namespace fs = std::filesystem;

namespace undershelf {

namespace {
constexpr std::uint64_t block = 4096;  ///< files take whole ones
/// Of smaller files holes are not worth looking for.
constexpr std::uint64_t look_from = 16 << 20;

}  // namespace

std::uint64_t room_for(const Shelf& shelf, const Source& source, const ShelfEntry& e) {
    if (e.size < look_from) return (e.size + block - 1) / block * block;
    const auto pieces = shelf.pieces(e.id);
    if (is_mostly_holes(e, pieces, source)) return 0;
    return (std::min(e.size, bytes_held(pieces)) + block - 1) / block * block;
}

std::uint64_t bytes_held(const std::vector<Piece>& pieces) {
    std::uint64_t sum = 0;
    for (const auto& p : pieces) {
        if (p.kind != PieceKind::zeros && p.kind != PieceKind::missing) sum = saturating_add(sum, p.length);
    }
    return sum;
}

bool is_mostly_holes(const ShelfEntry& e, const std::vector<Piece>& pieces, const Source& source) {
    return e.size > source.size() && bytes_held(pieces) < e.size / 2;
}

std::optional<std::uint64_t> largest_file_at(const std::string& folder) {
    struct statfs kind {};
    constexpr auto msdos_super_magic = 0x4D44;
    if (::statfs(nearest_existing(fs::absolute(folder)).c_str(), &kind) != 0 ||
        kind.f_type != msdos_super_magic)
        return std::nullopt;
    return (std::uint64_t{4} << 30) - 1;
}

std::optional<std::uint64_t> largest_file_at(const std::vector<std::string>& folders) {
    std::optional<std::uint64_t> out;
    for (const auto& folder : folders) {
        const auto largest = largest_file_at(folder);
        if (!largest) return std::nullopt;
        out = std::max(out.value_or(0), *largest);
    }
    return out;
}

ExportEstimate estimate(const Shelf& shelf, const Source& source, const ExportOptions& options,
                        const Destinations& destinations, std::optional<std::uint64_t> largest) {
    constexpr std::size_t most_named = 3;
    ExportEstimate out;
    out.largest = largest;
    out.free = destinations.room();
    shelf.for_each(options.selection, {}, [&](const ShelfEntry& e) {
        if (e.is_dir || e.layout == Layout::none) return true;
        if (destinations.have(e)) return ++out.already > 0;
        out.bytes = saturating_add(out.bytes, room_for(shelf, source, e));
        ++out.files;
        if (e.rating.grade != Grade::none) ++out.by_grade[std::string(word(e.rating.grade))];
        if (out.largest && e.size > *out.largest && ++out.too_large <= most_named)
            out.first_too_large.emplace_back(e.shown_path(), e.size);
        return true;
    });
    return out;
}

std::uint64_t bytes_to_write(const Shelf& shelf, const Source& source, const ExportOptions& options,
                             const Destinations& destinations) {
    const auto all = shelf.sum(options.selection);
    const auto most = saturating_add(all.bytes, saturating_add(all.files, 1) * block);
    const auto room = destinations.room();
    if (room && most <= *room / 2) return all.bytes;
    const auto needed = estimate(shelf, source, options, destinations, std::nullopt);
    if (needed.fits()) return needed.bytes;
    throw Error(
        Trouble::refused,
        fmt::format("{} {} {} bytes free, and the {} selected files need {}. Choose a larger "
                    "destination, give another one with --to in addition, or select less, for example "
                    "with --grade likely+.",
                    fmt::join(options.to, " and "), options.to.size() == 1 ? "has" : "have", *needed.free,
                    needed.files, needed.bytes));
}

}  // namespace undershelf
