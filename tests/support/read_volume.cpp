#include "support/read_volume.hpp"

#include "support/memory_device.hpp"
#include "volume/content_stream.hpp"

namespace undershelf::test {

Collector read_volume(const FileSystem& fs, const ByteVector& bytes, RangeSet bad) {
    const auto source = memory_source(bytes, std::move(bad));
    Collector out;
    Progress progress;
    const auto found = fs.recognise(*source, 0);
    if (!found) return out;
    const auto reader = fs.open(*source, found->volume, NoTraces(), {});
    reader->read(out, progress);
    reader->remnants(out, progress);
    return out;
}

std::string content_of(const ByteVector& bytes, const Entry& e) {
    const auto source = memory_source(bytes);
    ContentStream stream(*source, e.pieces, e.size);
    const auto b = stream.first(1 << 20);
    return {b.begin(), b.end()};
}

}  // namespace undershelf::test
