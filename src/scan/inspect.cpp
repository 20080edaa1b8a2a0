#include "scan/inspect.hpp"

#include <algorithm>
#include <filesystem>

#include "systems/file_systems.hpp"

namespace undershelf {

namespace {

/// Free stretches that are looked at on one volume: enough to tell a few percent, few enough for a slow
/// drive.
constexpr std::size_t most_samples = 48;
constexpr std::uint64_t sample_bytes = 4096;
/// Of the second that a technician waits for a first look.
constexpr std::chrono::milliseconds search_time{600};

std::uint64_t unassigned_bytes(const Source& source, const SourceLayout& layout) {
    std::vector<ByteRange> taken;
    for (const auto& r : layout.volumes) taken.push_back({r.volume.offset, r.volume.size});
    if (layout.map) {
        for (const auto& p : layout.map->partitions) {
            if (p.is_room()) taken.push_back({p.offset, p.size});
        }
    }
    return source.size() - total_length(RangeSet(std::move(taken)).within({0, source.size()}));
}

std::optional<double> zero_share(const Source& source, const std::vector<ByteRange>& samples) {
    const auto step = std::max<std::size_t>(1, samples.size() / most_samples);
    std::uint64_t looked = 0, zeros = 0;
    for (std::size_t i = 0; i < samples.size(); i += step) {
        ByteVector bytes(static_cast<std::size_t>(std::min(samples[i].length, sample_bytes)));
        if (!source.read(samples[i].offset, bytes).empty()) continue;
        for (std::size_t at = 0; at + 512 <= bytes.size(); at += 512) {
            looked += 512;
            zeros += all_zero(Bytes(bytes).subspan(at, 512)) ? 512 : 0;
        }
    }
    if (looked == 0) return std::nullopt;
    return static_cast<double>(zeros) / static_cast<double>(looked);
}

}  // namespace

Inspection inspect(const Source& source, const ReadOptions& options) {
    auto layout = find_volumes(source, file_systems(), options, {.places = 4096, .time = search_time});
    Inspection out;
    out.path = source.path();
    out.size = source.size();
    out.sector_size = source.sector_size();
    std::error_code ec;
    out.is_drive = std::filesystem::is_block_file(source.path(), ec);
    out.drive = drive_health(source.path());
    if (!source.not_copied().empty()) out.not_copied = source.not_copied().bytes();
    out.unassigned = unassigned_bytes(source, layout);
    out.bare_partitions = layout.bare_partitions();
    out.map = std::move(layout.map);
    out.remarks = std::move(layout.remarks);
    out.gaps = source.gaps();
    for (auto& found : layout.volumes) {
        InspectedVolume v;
        if (const auto* fs = file_system_of(found.volume)) v.space = fs->space(source, found.volume);
        if (v.space) v.zero_share = zero_share(source, v.space->free_samples);
        v.found = std::move(found);
        out.volumes.push_back(std::move(v));
    }
    out.unreadable = source.unreadable();
    return out;
}

}  // namespace undershelf
