#pragma once
// Traces in memory: gathered from bytes, and given to who settles them.

#include <algorithm>

#include "support/collector.hpp"
#include "volume/file_system.hpp"

namespace undershelf::test {

class Traces final : public TraceSink, public TraceStore {
  public:
    Traces() = default;
    /// Those that a file system finds in bytes.
    Traces(const FileSystem& fs, Bytes bytes) { fs.find_traces({bytes, 0, bytes.size()}, *this); }

    void trace(Trace&& t) override { all.push_back(std::move(t)); }
    void visit(std::uint32_t kind, const ByteRange& where,
               const std::function<bool(const Trace&)>& each) const override {
        auto sorted = all;
        std::stable_sort(sorted.begin(), sorted.end(),
                         [](const Trace& a, const Trace& b) { return a.offset < b.offset; });
        for (const auto& t : sorted) {
            if (t.kind == kind && t.offset >= where.offset && t.offset - where.offset < where.length &&
                !each(t))
                return;
        }
    }
    std::size_t count(std::uint32_t kind) const {
        return static_cast<std::size_t>(
            std::count_if(all.begin(), all.end(), [&](const Trace& t) { return t.kind == kind; }));
    }

    std::vector<Trace> all;
};

/// Settles what is in a source, where nothing else is known.
inline std::vector<Recognition> settle(const FileSystem& fs, const Source& source, const TraceStore& traces,
                                       const std::vector<PresentLife>& present = {},
                                       const std::vector<std::uint64_t>& heads = {},
                                       const RangeSet& taken = {}) {
    return fs.settle({source, traces, present, heads, taken, {}}, Progress());
}

/// Reads a volume that was settled, remnants included.
inline Collector read_settled(const FileSystem& fs, const Source& source, const Volume& volume,
                              const TraceStore& traces) {
    Collector out;
    Progress progress;
    const auto reader = fs.open(source, volume, traces, {});
    reader->read(out, progress);
    reader->remnants(out, progress);
    return out;
}

/// A present volume of a kind of its own over all of these bytes.
inline std::vector<PresentLife> something_over(const ByteVector& bytes) {
    PresentLife life;
    life.volume.family = "ext4";
    life.volume.size = bytes.size();
    return {life};
}

}  // namespace undershelf::test
