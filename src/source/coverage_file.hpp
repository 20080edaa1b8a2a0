#pragma once
// The file beside an image that says what of its source is in it: CSV with the header `offset,length,state`
// after lines of comment. docs/coverage-format.md describes it.

#include <iosfwd>

#include "source/byte_device.hpp"
#include "source/coverage.hpp"
#include "source/samples.hpp"

namespace undershelf {

constexpr std::string_view coverage_header = "offset,length,state";

struct CoverageRecord {
    explicit CoverageRecord(std::uint64_t size) : coverage(size) {}

    std::string source;  ///< path of what was copied
    std::uint32_t sector_size = 512;
    std::string serial;           ///< of the drive; empty where it has none
    std::uint64_t part_size = 0;  ///< bytes of each part of a split image; 0: one file
    std::vector<SourceSample> samples;
    /// Of what is leapt: failed in a shorter read, too, so that single sectors come next.
    RangeSet narrowed;
    Coverage coverage;
};

/// Reads such a file. Ranges it leaves out are waiting. Throws Error(input) that names the file and the line
/// that is wrong.
CoverageRecord read_coverage_file(const std::string& path);
CoverageRecord read_coverage(std::istream& in, const std::string& path);
std::string text_of(const CoverageRecord& record);

/// The offset of the first sample that `image` has other bytes for; what of it is not copied, or cannot be
/// read, speaks neither way.
std::optional<std::uint64_t> sample_not_in_image(const ByteDevice& image, const CoverageRecord& record);

/// Where the coverage of an image is written: IMAGE.coverage.csv.
std::string coverage_path_of(const std::string& image);
/// The coverage beside an image, or beside the parts of one, of which `image` is the first.
std::optional<std::string> coverage_beside(const std::string& image);
}  // namespace undershelf
