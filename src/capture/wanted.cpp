#include "capture/wanted.hpp"

#include <algorithm>

#include "capture/structures.hpp"
#include "volume/pieces.hpp"

namespace undershelf {

namespace {

/// Bytes of a file by what became of them.
struct Damage {
    std::uint64_t unreadable = 0, leapt = 0, waiting = 0;
};

Damage damage_of(const WantedFile& file, const Coverage& coverage) {
    Damage out;
    for (const auto& r : file.ranges) {
        for (const auto& s : coverage.within(r)) {
            if (s.state == CoverageState::unreadable) out.unreadable += s.range.length;
            if (s.state == CoverageState::leapt) out.leapt += s.range.length;
            if (s.state == CoverageState::waiting) out.waiting += s.range.length;
        }
    }
    return out;
}

}  // namespace

std::vector<WantedFile> wanted_files(const Shelf& shelf, const Selection& selection) {
    std::vector<WantedFile> out;
    const ByteRange all{0, shelf.source().size};
    shelf.for_each(selection, {}, [&](const ShelfEntry& e) {
        if (e.is_dir) return true;
        WantedFile file{e.id, e.size, {}};
        for_each_source_range(shelf.pieces(e.id), [&](const ByteRange& source, const ByteRange&) {
            if (const auto inside = overlap(source, all)) file.ranges.push_back(*inside);
        });
        if (!file.ranges.empty()) out.push_back(std::move(file));
        return true;
    });
    return out;
}

std::vector<ByteRange> in_order_of_worth(std::vector<WantedFile> files, const Coverage& coverage,
                                         std::uint32_t sector) {
    std::vector<std::pair<std::uint64_t, const WantedFile*>> order;
    for (const auto& f : files) {
        const auto d = damage_of(f, coverage);
        order.emplace_back(d.unreadable + d.leapt, &f);
    }
    std::stable_sort(order.begin(), order.end(), [](const auto& a, const auto& b) {
        return std::pair(a.first, a.second->size) < std::pair(b.first, b.second->size);
    });
    std::vector<ByteRange> out;
    for (const auto& [damage, file] : order) {
        for (const auto& r : file->ranges) {
            if (const auto whole = whole_sectors(r, sector, coverage.size())) out.push_back(*whole);
        }
    }
    return out;
}

FileCoverage covered(const std::vector<WantedFile>& files, const Coverage& coverage) {
    FileCoverage out;
    for (const auto& f : files) {
        const auto d = damage_of(f, coverage);
        ++out.files;
        if (d.unreadable) {
            ++out.unreadable;
        } else if (d.leapt + d.waiting) {
            ++out.waiting;
        } else {
            ++out.complete;
        }
    }
    return out;
}

}  // namespace undershelf
