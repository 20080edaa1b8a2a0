#include "capture/structures.hpp"

#include <algorithm>

#include "base/error.hpp"
#include "layout/find_volumes.hpp"
#include "systems/file_systems.hpp"

namespace undershelf {

namespace {
/// Places that are looked at where no map says; a failing drive is not to be searched for long.
constexpr std::size_t most_places = 256;
}  // namespace

std::optional<ByteRange> whole_sectors(const ByteRange& range, std::uint32_t sector, std::uint64_t size) {
    const auto inside = overlap(range, {0, size});
    if (!inside) return std::nullopt;
    const auto from = inside->offset / sector * sector;
    const auto end = std::min((inside->end() + sector - 1) / sector * sector, size);
    return ByteRange{from, end - from};
}

std::vector<VolumeStructures> find_structures(const Source& source, Progress& progress) {
    std::vector<VolumeStructures> out;
    const NoTraces no_traces;
    for (auto& r : find_volumes(source, file_systems(), {}, {.places = most_places}).volumes) {
        const auto* fs = file_system_of(r.volume);
        if (!fs || !r.volume.readable || progress.stopped()) continue;
        try {
            auto structures = fs->open(source, r.volume, no_traces, {})->structures(progress);
            out.push_back({std::move(r.volume), std::move(structures)});
        } catch (const Error& e) {
            // A head that can be read no more: what it led to comes with the rest.
            if (e.trouble() != Trouble::input) throw;
        }
    }
    return out;
}

std::vector<ByteRange> ranges_of(const std::vector<VolumeStructures>& volumes, std::uint64_t size,
                                 std::uint32_t sector) {
    std::vector<ByteRange> out;
    std::size_t most = 0;
    for (const auto& v : volumes) most = std::max(most, v.structures.size());
    for (std::size_t i = 0; i < most; ++i) {
        for (const auto& v : volumes) {
            if (i >= v.structures.size()) continue;
            std::vector<ByteRange> ranges;
            for (const auto& r : v.structures[i].ranges) {
                if (const auto whole = whole_sectors(r, sector, size)) ranges.push_back(*whole);
            }
            for (const auto& r : RangeSet(std::move(ranges)).ranges()) out.push_back(r);
        }
    }
    return out;
}

std::vector<StructureCoverage> covered(const std::vector<VolumeStructures>& volumes,
                                       const Coverage& coverage) {
    std::vector<StructureCoverage> out;
    for (const auto& v : volumes) {
        StructureCoverage now{v.volume, {}};
        for (const auto& s : v.structures) {
            StructureCoverage::Part part{s.what};
            for (const auto& r : s.ranges) {
                part.bytes += r.length;
                const auto inside = overlap(r, {0, coverage.size()});
                for (const auto& c : inside ? coverage.within(*inside) : std::vector<Coverage::Stretch>()) {
                    if (c.state == CoverageState::unreadable) part.unreadable += c.range.length;
                    if (c.state == CoverageState::waiting || c.state == CoverageState::leapt)
                        part.not_copied += c.range.length;
                }
            }
            if (part.not_copied + part.unreadable) now.parts.push_back(std::move(part));
        }
        out.push_back(std::move(now));
    }
    return out;
}

}  // namespace undershelf
