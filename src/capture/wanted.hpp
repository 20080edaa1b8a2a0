#pragma once
// What the files of a shelf need of their source.

#include "shelf/shelf.hpp"
#include "source/coverage.hpp"

namespace undershelf {

struct WantedFile {
    std::int64_t id = 0;
    std::uint64_t size = 0;
    std::vector<ByteRange> ranges;  ///< of the source, in the order of its content
};

/// The selected files that have anything on their source.
std::vector<WantedFile> wanted_files(const Shelf& shelf, const Selection& selection);

/// In the order in which they are worth copying: of which least is known to be damaged first, then the
/// smallest; in whole sectors of `sector` bytes.
std::vector<ByteRange> in_order_of_worth(std::vector<WantedFile> files, const Coverage& coverage,
                                         std::uint32_t sector);

struct FileCoverage {
    std::uint64_t files = 0, complete = 0;
    std::uint64_t unreadable = 0;  ///< files that touch unreadable places
    std::uint64_t waiting = 0;     ///< of the others, files that touch places not copied yet
};
FileCoverage covered(const std::vector<WantedFile>& files, const Coverage& coverage);

}  // namespace undershelf
