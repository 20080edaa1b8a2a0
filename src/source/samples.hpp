#pragma once
// By what a source is known again: the hashes of short stretches spread over it.

#include <optional>
#include <string>
#include <vector>

#include "base/byte_range.hpp"
#include "source/source.hpp"

namespace undershelf {

constexpr std::uint64_t longest_sample = 64 << 10;  ///< bytes; ours are shorter

/// A short stretch of a source and its SHA-256 in hex.
struct SourceSample {
    ByteRange range;
    std::string sha256;
};

/// Where the samples of a source of `size` bytes are, ascending: denser towards the start, where heads and
/// tables are.
std::vector<ByteRange> sample_places(std::uint64_t size);
/// Stretches that cannot be read are left out.
std::vector<SourceSample> sample_source(const Source& source);
/// The offset of the first sample that the source has other bytes for; what cannot be read speaks neither
/// way.
std::optional<std::uint64_t> sample_that_differs(const Source& source,
                                                 const std::vector<SourceSample>& samples);

}  // namespace undershelf
