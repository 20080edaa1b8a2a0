#include "hfsplus/fork.hpp"

#include <algorithm>
#include <cstring>

namespace undershelf::hfsplus {

std::vector<Extent> extents_of(const HFSPlusExtentDescriptor (&extents)[8], std::uint32_t total_blocks,
                               bool& sound) {
    std::vector<Extent> out;
    for (const auto& e : extents) {
        const auto start = e.startBlock.value(), count = e.blockCount.value();
        if (count == 0) break;
        if (start >= total_blocks || count > total_blocks - start) {
            sound = false;
            break;
        }
        out.push_back({start, count});
    }
    return out;
}

Fork::Fork(const Source& source, const Geometry& g, std::vector<Extent> extents, std::uint64_t size)
    : source_(&source) {
    std::uint64_t at = 0;
    for (const auto& e : extents) {
        const ByteRange range{g.offset + std::uint64_t{e.start} * g.block_size,
                              std::uint64_t{e.count} * g.block_size};
        parts_.push_back({at, range});
        at += range.length;
    }
    size_ = std::min(size, at);
}

Fork::Fork(const Source& source, const std::vector<ByteRange>& stretches) : source_(&source) {
    for (const auto& range : stretches) {
        parts_.push_back({size_, range});
        size_ += range.length;
    }
}

std::vector<ByteRange> Fork::places(std::uint64_t offset, std::uint64_t length) const {
    std::vector<ByteRange> out;
    length = offset < size_ ? std::min(length, size_ - offset) : 0;
    auto it = std::upper_bound(parts_.begin(), parts_.end(), offset,
                               [](std::uint64_t o, const Part& p) { return o < p.offset; });
    if (it != parts_.begin()) --it;
    for (; it != parts_.end() && length; ++it) {
        const auto within = offset - it->offset;
        const auto n = std::min(length, it->source.length - within);
        out.push_back({it->source.offset + within, n});
        offset += n;
        length -= n;
    }
    return out;
}

void Fork::read(std::uint64_t offset, MutableBytes out) const {
    std::size_t done = 0;
    for (const auto& range : places(offset, out.size())) {
        source_->read(range.offset, out.subspan(done, static_cast<std::size_t>(range.length)));
        done += static_cast<std::size_t>(range.length);
    }
    if (done < out.size()) std::memset(out.data() + done, 0, out.size() - done);
}

std::optional<std::uint64_t> Fork::offset_of(std::uint64_t source_offset) const {
    for (const auto& p : parts_) {
        if (source_offset >= p.source.offset && source_offset < p.source.end())
            return p.offset + (source_offset - p.source.offset);
    }
    return std::nullopt;
}

}  // namespace undershelf::hfsplus
