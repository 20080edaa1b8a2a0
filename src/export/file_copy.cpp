#include "export/file_copy.hpp"

#include <algorithm>
#include <future>

#include "base/sha256.hpp"

namespace undershelf {

namespace {
constexpr std::size_t chunk_size = 1 << 20;
/// Smaller files are hashed several at a time; a second thread for each would gain nothing.
constexpr std::uint64_t overlap_from = 32 << 20;

void append_missing(std::vector<ByteRange>& all, const std::vector<ByteRange>& more) {
    for (const auto& m : more) {
        if (!all.empty() && all.back().end() == m.offset) {
            all.back().length += m.length;
        } else {
            all.push_back(m);
        }
    }
}
}  // namespace

Copied copy_content(ContentStream& stream, OutputFile& out, const std::function<bool(std::uint64_t)>& wrote) {
    Copied result;
    Sha256 hash;
    ByteVector buffers[2];
    std::future<void> hashing;
    std::size_t current = 0;
    for (std::uint64_t at = 0; at < stream.size(); at += chunk_size) {
        auto& buffer = buffers[current];
        buffer.resize(static_cast<std::size_t>(std::min<std::uint64_t>(chunk_size, stream.size() - at)));
        append_missing(result.missing, stream.read(at, buffer));
        if (hashing.valid()) hashing.get();
        if (stream.size() >= overlap_from) {
            hashing = std::async(std::launch::async, [&hash, &buffer] { hash.add(buffer); });
        } else {
            hash.add(buffer);
        }
        out.write(buffer);
        if (!wrote(buffer.size())) {
            result.interrupted = true;
            break;
        }
        current = 1 - current;
    }
    if (hashing.valid()) hashing.get();
    if (!result.interrupted) result.sha256 = hash.hex();
    return result;
}

}  // namespace undershelf
