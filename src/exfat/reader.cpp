#include "exfat/reader.hpp"

#include <fmt/format.h>

#include <algorithm>

#include "base/text.hpp"

namespace undershelf::exfat {

Reader::Reader(const Source& source, const Volume& volume, Allocation&& allocation,
               std::optional<clusters::FormerFolders>&& former)
    : clusters::Reader(source, volume, allocation.grid(), allocation.known_clusters(), std::move(former)),
      geometry_(allocation.geometry()),
      allocation_(std::move(allocation)) {}

/// A former volume has no live files: whether its drivers set NoFatChain is told by all its sets. The first
/// that has it is enough.
void Reader::live_is_read() {
    if (!is_former()) return;
    const auto sets_it = [this](const ByteRange& range) {
        const auto listing = parse_folder(FolderBytes(source_, {range}));
        return std::any_of(listing.sets.begin(), listing.sets.end(), [](const EntrySet& set) {
            return set.checksum_holds && !set.is_dir() &&
                   (set.stream.GeneralSecondaryFlags & no_fat_chain) != 0;
        });
    };
    slack_ = former_folders().slack;
    for (const auto cluster : former_folders().folders) {
        if (sets_no_fat_chain_ || stopped()) return;
        sets_no_fat_chain_ = sets_it({grid_.offset(cluster), grid_.cluster_size});
    }
    for (const auto& range : slack_) {
        if (sets_no_fat_chain_ || stopped()) return;
        sets_no_fat_chain_ = sets_it(range);
    }
}

// The live tree.

std::vector<Structure> Reader::tables() const {
    const auto& boot = geometry_.boot;
    const auto at = volume_.offset;
    const std::uint64_t regions = 2ull * boot_region_sectors * geometry_.sector_size;
    // Of a FAT only the entries of clusters say anything; it may be much longer.
    const auto entries =
        std::min<std::uint64_t>((std::uint64_t{geometry_.clusters()} + 2) * 4,
                                std::uint64_t{boot.FatLength.value()} * geometry_.sector_size);
    return {{"boot regions", {{at, regions}}},
            {"FATs", {{at + geometry_.fat_offset, entries}}},
            {"allocation bitmaps", allocation_.bitmap_ranges()}};
}

std::vector<ByteRange> Reader::root(std::vector<Run>& runs) {
    runs = allocation_
               .follow(geometry_.boot.FirstClusterOfRootDirectory.value(),
                       grid_.clusters_for(bound::folder_bytes))
               .runs;
    return grid_.ranges(runs);
}

Reader::Noted Reader::read_live(const Folder& folder, const FolderBytes& bytes, EntrySink& sink) {
    if (folder.key == root_key && !allocation_.has_bitmap()) {
        sink.diagnostic(
            fmt::format("The allocation bitmap of the exFAT volume at offset {} cannot be read; what is in "
                        "use is taken from live files alone.",
                        volume_.offset));
    }
    const auto listing = parse_folder(bytes);
    for (const auto& set : listing.sets) {
        if (stopped()) break;
        if (set.in_use && !set.after_end) {
            read_live_set(set, folder, sink);
        } else if (grid_.holds(set.stream.FirstCluster.value())) {
            near_.push_back(grid_.offset(set.stream.FirstCluster.value()));
            if (set.is_dir() && set.checksum_holds) note_lost_start(set.stream.FirstCluster.value());
        }
    }
    return {listing.lost, listing.leftovers, listing.unreadable_slots};
}

/// The one run that a set with NoFatChain says it lies in, as far as the volume reaches.
Reader::Place Reader::recorded_run(const EntrySet& set) const {
    Place place;
    const auto start = set.stream.FirstCluster.value();
    const auto wanted = grid_.clusters_for(set.stream.DataLength.value());
    if (wanted == 0 || !grid_.holds(start)) return place;
    place.runs.push_back(
        {start, static_cast<std::uint32_t>(std::min<std::uint64_t>(wanted, grid_.end() - start))});
    return place;
}

Reader::Place Reader::live_place(const EntrySet& set) {
    auto place = recorded_run(set);
    if (place.runs.empty()) return place;
    if (set.stream.GeneralSecondaryFlags & no_fat_chain) {
        place.crosses = taken_.any(place.runs.front());
        return place;
    }
    const auto wanted = grid_.clusters_for(set.stream.DataLength.value());
    const auto chain = allocation_.follow(place.runs.front().first,
                                          {wanted, set.is_dir() ? 1 : crossing_limit(wanted)}, taken_);
    take_crossing(chain);
    place.crosses = chain.crosses;
    place.fact = Fact::live_chain;
    place.runs = chain.runs;
    return place;
}

void Reader::lay_out(Entry& e, const EntrySet& set, const Place& place) const {
    e.claims = grid_.ranges(place.runs);
    e.layout = e.size == 0          ? Layout::known
               : place.runs.empty() ? Layout::none
               : place.known        ? Layout::known
                                    : Layout::assumed;
    if (e.size == 0 || place.runs.empty()) return;
    if (place.fact) e.evidence.push_back({*place.fact, place.runs.size(), 0, {}});
    // After the valid length the content reads as zeros, whatever its clusters hold (section 7.6.5).
    const auto valid = std::min(set.stream.ValidDataLength.value(), e.size);
    std::uint64_t at = 0;
    const auto add = [&](PieceKind kind, std::uint64_t length, std::uint64_t source) {
        if (length == 0) return;
        Piece p;
        p.kind = kind;
        p.known = place.known;
        p.offset = at;
        p.length = length;
        p.source = source;
        at += length;
        e.pieces.push_back(std::move(p));
    };
    for (const auto& r : e.claims) {
        if (at < valid) add(PieceKind::stored, std::min(r.length, valid - at), r.offset);
    }
    if (at < valid) add(PieceKind::missing, valid - at, 0);
    add(PieceKind::zeros, e.size - at, 0);
}

void Reader::read_live_set(const EntrySet& set, const Folder& folder, EntrySink& sink) {
    auto e = basic_entry(set, folder.key);
    const auto place = live_place(set);
    if (e.is_dir) {
        e.claims = grid_.ranges(place.runs);
        e.layout = place.runs.empty() ? Layout::none : Layout::known;
        if (place.crosses) {
            say_folder_crosses(e, set.source_offset, sink);
        } else if (!place.runs.empty()) {
            found_folder(e, place.runs.front().first, place.runs);
        }
    } else {
        lay_out(e, set, place);
        if (place.crosses) e.evidence.push_back({Fact::chain_crosses, 0, 0, {}});
        count_live(e, place.runs, true);
        const bool one_run = set.stream.GeneralSecondaryFlags & no_fat_chain;
        sets_no_fat_chain_ |= one_run;
        const auto clusters = grid_.clusters_for(e.size);
        if (!one_run && clusters > 1) chained_habit_.count(clusters, place.runs.size() == 1);
    }
    if (!e.is_dir) note_slack(e.size, place);
    hold(place.runs, e.is_dir ? 0 : ticks_of(e.created));
    if (!place.runs.empty())
        live_files_.emplace(place.runs.front().first,
                            LiveFile{set.stream.DataLength.value(), ticks_of(e.created), e.key, e.is_dir});
    sink.entry(std::move(e));
}

/// What of a live file's last cluster lies after its end.
void Reader::note_slack(std::uint64_t size, const Place& place) {
    const auto ranges = grid_.ranges(place.runs);
    const auto used = (size % grid_.cluster_size + FolderBytes::slot_size - 1) / FolderBytes::slot_size *
                      FolderBytes::slot_size;
    if (place.crosses || ranges.empty() || used == 0 || used == grid_.cluster_size) return;
    if (cluster_total(place.runs) != grid_.clusters_for(size)) return;
    const auto end = ranges.back().end();
    slack_.push_back({end - grid_.cluster_size + used, grid_.cluster_size - used});
}

}  // namespace undershelf::exfat
