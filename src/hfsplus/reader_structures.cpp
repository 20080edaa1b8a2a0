// Where the trees, the allocation file and the journal of a volume are: all that names and layouts are read
// from.

#include "hfsplus/journal.hpp"
#include "hfsplus/reader.hpp"
#include "volume/ignoring_sink.hpp"

namespace undershelf::hfsplus {

std::vector<Structure> Reader::structures(Progress&) {
    IgnoringSink sink(volume_, source_.size());
    // The extents overflow may be needed to find the others.
    read_side_trees(sink);
    const auto places = [&](const HFSPlusForkData& fork, std::uint32_t id) {
        const auto whole = special_fork(fork, id);
        return whole.places(0, whole.size());
    };
    Structure headers{"volume headers", {{volume_.offset, 3 * 512}}};
    if (volume_.size > 4 * 512) headers.ranges.push_back({volume_.offset + volume_.size - 1024, 1024});
    const std::uint64_t info_block = header_.journalInfoBlock.value();
    Structure journal{"journals", journal_places(source_, geometry_, header_.journalInfoBlock.value())};
    if (!journal.ranges.empty())
        journal.ranges.push_back({volume_.offset + info_block * geometry_.block_size, geometry_.block_size});
    return {std::move(headers),
            {"extents overflow", places(header_.extentsFile, kHFSExtentsFileID)},
            {"catalogue", places(header_.catalogFile, kHFSCatalogFileID)},
            {"attributes", places(header_.attributesFile, kHFSAttributesFileID)},
            {"allocation file", places(header_.allocationFile, kHFSAllocationFileID)},
            std::move(journal)};
}

}  // namespace undershelf::hfsplus
