#include "scan/source_identity.hpp"

#include <fmt/format.h>

#include <filesystem>

#include "base/error.hpp"
#include "base/sha256.hpp"

namespace undershelf {

namespace {
constexpr std::uint64_t sample_length = 4096;
constexpr std::uint64_t sample_count = 48;

/// Empty when any byte of the range cannot be read.
std::string hash_of(const Source& source, const ByteRange& range) {
    ByteVector bytes(static_cast<std::size_t>(range.length));
    if (!source.read(range.offset, bytes).empty()) return {};
    Sha256 hash;
    hash.add(bytes);
    return hash.hex();
}
}  // namespace

std::vector<SourceSample> sample_source(const Source& source) {
    std::vector<SourceSample> out;
    std::uint64_t next = 0;
    for (std::uint64_t i = 0; i < sample_count; ++i) {
        // Denser towards the start, where heads and tables stand: quadratic steps.
        const auto part =
            static_cast<double>(i * i) / static_cast<double>((sample_count - 1) * (sample_count - 1));
        const auto room = source.size() > sample_length ? source.size() - sample_length : 0;
        const auto at = static_cast<std::uint64_t>(part * static_cast<double>(room)) / 512 * 512;
        if (at < next) continue;
        const ByteRange range{at, std::min(sample_length, source.size() - at)};
        next = range.end();
        if (auto hash = hash_of(source, range); !hash.empty()) out.push_back({range, std::move(hash)});
    }
    return out;
}

std::string source_difference(const Source& source, const SourceRecord& record,
                              const std::vector<SourceSample>& samples) {
    if (source.size() != record.size)
        return fmt::format("it has {} bytes, and the shelf was made from one of {} bytes", source.size(),
                           record.size);
    for (const auto& sample : samples) {
        const auto hash = hash_of(source, sample.range);
        if (!hash.empty() && hash != sample.sha256)
            return fmt::format("its bytes at offset {} are others than when the shelf was made",
                               sample.range.offset);
    }
    return {};
}

std::unique_ptr<Source> open_source_of(const Shelf& shelf, const std::string& path) {
    const auto record = shelf.source();
    const auto where = path.empty() ? record.path : path;
    if (!std::filesystem::exists(where)) {
        throw Error(
            Trouble::input,
            fmt::format("The source {} is not there any more; say where it is now with --source PATH.",
                        where));
    }
    auto device = is_split_image(where) ? open_split_device(where) : open_file_device(where);
    auto source = std::make_unique<Source>(make_faulty_device(std::move(device), shelf.unreadable()));
    if (const auto difference = source_difference(*source, record, read_samples(shelf.database()));
        !difference.empty()) {
        throw Error(Trouble::input,
                    fmt::format("{} is not the source of {}: {}. Give the right one with --source PATH.",
                                where, shelf.path(), difference));
    }
    return source;
}

}  // namespace undershelf
