#include "source/samples.hpp"

#include "base/sha256.hpp"

namespace undershelf {

namespace {
constexpr std::uint64_t sample_length = 4096;
constexpr std::uint64_t sample_count = 48;

/// Empty when any byte of the range cannot be read.
std::string hash_of(const Source& source, const ByteRange& range) {
    ByteVector bytes(static_cast<std::size_t>(range.length));
    if (!source.read(range.offset, bytes).empty()) return {};
    return sha256_of(bytes);
}
}  // namespace

std::vector<ByteRange> sample_places(std::uint64_t size) {
    std::vector<ByteRange> out;
    std::uint64_t next = 0;
    for (std::uint64_t i = 0; i < sample_count; ++i) {
        // Quadratic steps.
        const auto part =
            static_cast<double>(i * i) / static_cast<double>((sample_count - 1) * (sample_count - 1));
        const auto room = size > sample_length ? size - sample_length : 0;
        const auto at = static_cast<std::uint64_t>(part * static_cast<double>(room)) / 512 * 512;
        if (at < next) continue;
        out.push_back({at, std::min(sample_length, size - at)});
        next = out.back().end();
    }
    return out;
}

std::vector<SourceSample> sample_source(const Source& source) {
    std::vector<SourceSample> out;
    for (const auto& range : sample_places(source.size())) {
        if (auto hash = hash_of(source, range); !hash.empty()) out.push_back({range, std::move(hash)});
    }
    return out;
}

std::optional<std::uint64_t> sample_that_differs(const Source& source,
                                                 const std::vector<SourceSample>& samples) {
    for (const auto& sample : samples) {
        if (sample.range.end() > source.size()) return sample.range.offset;
        const auto hash = hash_of(source, sample.range);
        if (!hash.empty() && hash != sample.sha256) return sample.range.offset;
    }
    return std::nullopt;
}

}  // namespace undershelf
