#pragma once
// How much room an export needs at its destination.

#include <map>

#include "export/destinations.hpp"
#include "source/source.hpp"

namespace undershelf {

/// Bytes of a content that are anywhere; holes and what is lost take no room.
std::uint64_t bytes_held(const std::vector<Piece>& pieces);
/// A file larger than its source whose content is mostly holes: nobody means it by selecting everything.
bool is_mostly_holes(const ShelfEntry& entry, const std::vector<Piece>& pieces, const Source& source);

/// Bytes that a file takes at its destination.
std::uint64_t room_for(const Shelf& shelf, const Source& source, const ShelfEntry& entry);

/// What an export would come to.
struct ExportEstimate {
    std::uint64_t files = 0, bytes = 0;  ///< bytes: of room that they take
    std::uint64_t already = 0;           ///< files beside them that the bags have from earlier rounds
    std::map<std::string, std::uint64_t> by_grade;  ///< by the word of the grade
    std::optional<std::uint64_t> free;              ///< at all destinations together
    std::optional<std::uint64_t> largest;           ///< file that the destinations can hold
    std::uint64_t too_large = 0;                    ///< files beyond that
    std::vector<std::pair<std::string, std::uint64_t>>
        first_too_large;  ///< path and bytes of the first of these
    bool fits() const { return !free || bytes <= *free; }
};
/// Looks at what there is alone. `largest`: the largest file that the destinations can hold.
ExportEstimate estimate(const Shelf& shelf, const Source& source, const ExportOptions& options,
                        const Destinations& destinations, std::optional<std::uint64_t> largest);
/// What is to be written, bytes; where there is plenty of room at most that. Throws Error(refused) when it
/// does not fit.
std::uint64_t bytes_to_write(const Shelf& shelf, const Source& source, const ExportOptions& options,
                             const Destinations& destinations);

/// Of a folder that is there or will be: 4 GiB less one byte on FAT (its file sizes have 32 bits); nothing
/// where nobody has such large files anyway.
std::optional<std::uint64_t> largest_file_at(const std::string& folder);
/// Of several the largest.
std::optional<std::uint64_t> largest_file_at(const std::vector<std::string>& folders);

}  // namespace undershelf
