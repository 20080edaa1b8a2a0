#include "clusters/folder_bytes.hpp"

#include <algorithm>

namespace undershelf::clusters {

FolderBytes::FolderBytes(const Source& source, const std::vector<ByteRange>& ranges) {
    bytes_.resize(static_cast<std::size_t>(total_length(ranges)));
    std::size_t at = 0;
    std::vector<ByteRange> missing;
    for (const auto& r : ranges) {
        parts_.push_back({at / slot_size, r.offset});
        const auto part = MutableBytes(bytes_).subspan(at, static_cast<std::size_t>(r.length));
        for (const auto& m : source.read(r.offset, part)) missing.push_back(m);
        at += part.size();
    }
    missing_ = RangeSet(std::move(missing));
}

std::uint64_t FolderBytes::source_offset(std::size_t index) const {
    const auto part = std::prev(std::upper_bound(
        parts_.begin(), parts_.end(), index, [](std::size_t i, const Part& p) { return i < p.first_slot; }));
    return part->source + (index - part->first_slot) * slot_size;
}

bool FolderBytes::readable(std::size_t index) const {
    return missing_.empty() || !missing_.touches({source_offset(index), slot_size});
}

}  // namespace undershelf::clusters
