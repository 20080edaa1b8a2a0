#include "export/room.hpp"

#include <fmt/format.h>
#include <sys/statfs.h>
#include <sys/statvfs.h>

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

std::uint64_t room_for(const Shelf& shelf, const Source& source, const ShelfEntry& e) {
    if (e.size < look_from) return (e.size + block - 1) / block * block;
    const auto pieces = shelf.pieces(e.id);
    if (is_mostly_holes(e, pieces, source)) return 0;
    return (std::min(e.size, bytes_held(pieces)) + block - 1) / block * block;
}

}  // namespace

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

ExportEstimate estimate(const Shelf& shelf, const Source& source, const ExportOptions& options,
                        std::optional<std::uint64_t> largest) {
    constexpr std::size_t most_named = 3;
    ExportEstimate out;
    out.largest = largest;
    shelf.for_each(options.selection, {}, [&](const ShelfEntry& e) {
        if (e.is_dir || e.layout == Layout::none) return true;
        out.bytes = saturating_add(out.bytes, room_for(shelf, source, e));
        ++out.files;
        if (e.rating.grade != Grade::none) ++out.by_grade[std::string(word(e.rating.grade))];
        if (out.largest && e.size > *out.largest && ++out.too_large <= most_named)
            out.first_too_large.emplace_back(e.shown_path(), e.size);
        return true;
    });
    struct statvfs room {};
    if (::statvfs(nearest_existing(fs::absolute(options.to)).c_str(), &room) != 0) return out;
    out.free = std::uint64_t{room.f_bavail} * room.f_frsize;
    if (out.fits()) return out;
    std::error_code ec;
    for (fs::recursive_directory_iterator it(options.to, ec), end; !ec && it != end; it.increment(ec)) {
        if (it->is_regular_file(ec)) *out.free += it->file_size(ec);
    }
    return out;
}

std::uint64_t check_free_space(const Shelf& shelf, const Source& source, const ExportOptions& options) {
    const auto needed = estimate(shelf, source, options, std::nullopt);
    if (!needed.fits()) {
        throw Error(Trouble::refused,
                    fmt::format("{} has {} bytes free, and the {} selected files need {}. Choose a larger "
                                "destination or select less, for example with --grade likely+.",
                                options.to, *needed.free, needed.files, needed.bytes));
    }
    return needed.bytes;
}

}  // namespace undershelf
