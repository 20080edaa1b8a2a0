#include "exfat/reader.hpp"

#include <fmt/format.h>

#include <algorithm>

#include "base/text.hpp"

namespace undershelf::exfat {

Reader::Reader(const Source& source, const Volume& volume, const Geometry& geometry)
    : Reader(source, volume, Allocation(source, volume.offset, geometry)) {}

Reader::Reader(const Source& source, const Volume& volume, Allocation&& allocation)
    : clusters::Reader(source, volume, allocation.grid(), allocation.known_clusters()),
      geometry_(allocation.geometry()),
      allocation_(std::move(allocation)) {}

// The live tree.

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
            hints_.push_back(grid_.offset(set.stream.FirstCluster.value()));
        }
    }
    return {listing.lost, listing.leftovers, listing.unreadable_slots};
}

Entry Reader::basic_entry(const EntrySet& set, const Folder& folder) const {
    const auto& f = set.file;
    Entry e;
    e.key = {set.source_offset, 0};
    e.parent = folder.key;
    e.name = utf8_from_utf16(set.name);
    e.is_dir = set.is_dir();
    e.size = e.is_dir ? 0 : set.stream.DataLength.value();
    if (set.headless) {
        e.evidence.push_back({Fact::bad_metadata, 0, 0,
                              "its file entry was written over; name and place are held by the name's hash"});
        return e;
    }
    e.attributes = f.FileAttributes.value() &
                   (attribute::read_only | attribute::hidden | attribute::system | attribute::archive);
    e.created = timestamp(f.CreateTimestamp.value(), f.Create10msIncrement, f.CreateUtcOffset);
    e.modified =
        timestamp(f.LastModifiedTimestamp.value(), f.LastModified10msIncrement, f.LastModifiedUtcOffset);
    e.accessed = timestamp(f.LastAccessedTimestamp.value(), 0, f.LastAccessedUtcOffset);
    if (set.checksum_holds) {
        e.evidence.push_back({Fact::set_checksum, 0, 0, {}});
    } else {
        e.evidence.push_back({Fact::bad_metadata, 0, 0, "the checksum over its entry set fails"});
    }
    return e;
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
    // Behind the valid length the content reads as zeros, whatever its clusters hold (section 7.6.5).
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
    auto e = basic_entry(set, folder);
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
        count_live(e.size, place.runs, true);
    }
    hold(place.runs, e.is_dir ? 0 : ticks_of(e.created));
    if (!place.runs.empty())
        live_files_.emplace(place.runs.front().first,
                            LiveFile{set.stream.DataLength.value(), ticks_of(e.created), e.key, e.is_dir});
    sink.entry(std::move(e));
}

// What was deleted.

/// The old chain usually stands in the FAT still: it counts when it fits, and nobody has its clusters now.
std::optional<Reader::Place> Reader::old_chain(const EntrySet& set) {
    const auto wanted = grid_.clusters_for(set.stream.DataLength.value());
    const auto most = std::min(wanted + 1, budget_->left(Budget::Cost::crossing));
    const auto chain = allocation_.follow(set.stream.FirstCluster.value(), most);
    budget_->take(Budget::Cost::crossing, chain.clusters());
    if (chain.end != ChainEnd::end_mark || chain.clusters() != wanted) return std::nullopt;
    const bool free = std::none_of(chain.runs.begin(), chain.runs.end(),
                                   [&](const Run& r) { return allocation_.used().any(r) || taken_.any(r); });
    if (!free && wanted != 1) return std::nullopt;
    Place place;
    place.runs = chain.runs;
    return place;
}

void Reader::read_lost(const Folder& folder, const FolderBytes& bytes, bool leftovers, EntrySink& sink) {
    const auto listing = parse_folder(bytes);
    for (const auto& set : listing.sets) {
        if (stopped()) return;
        const bool lost = !set.in_use || set.after_end || !folder.live;
        if (lost && set.after_end == leftovers) read_lost_set(set, folder, sink);
    }
    if (!leftovers) return;
    for (const auto& fragment : listing.fragments)
        emit_fragment(utf8_from_utf16(fragment.name), fragment.source_offset, folder, sink);
}

std::optional<EntryKey> Reader::old_set_of(const EntrySet& set, const Entry& e) const {
    const auto [from, to] = live_files_.equal_range(set.stream.FirstCluster.value());
    for (auto it = from; it != to; ++it) {
        const auto& live = it->second;
        if (live.is_dir != e.is_dir && !set.headless) continue;
        const bool same_birth = live.created != 0 && live.created == ticks_of(e.created);
        if (same_birth || (set.headless && live.size == set.stream.DataLength.value())) return live.key;
    }
    return std::nullopt;
}

void Reader::read_lost_set(const EntrySet& set, const Folder& folder, EntrySink& sink) {
    auto e = basic_entry(set, folder);
    e.origin = Origin::deleted;
    if (set.after_end) e.evidence.push_back({Fact::after_end_mark, 0, 0, {}});
    if (const auto live = old_set_of(set, e)) {
        sink.evidence(*live, {Fact::old_name, set.source_offset, 0, e.name});
        return;
    }
    if (e.is_dir) {
        place_lost_folder(e, set);
    } else if (e.size == 0) {
        place_empty(e);
    } else {
        place_lost_file(e, set);
    }
    sink.entry(std::move(e));
}

void Reader::place_lost_file(Entry& e, const EntrySet& set) {
    auto place = recorded_run(set);
    if (place.runs.empty()) {
        e.evidence.push_back({Fact::start_outside, set.stream.FirstCluster.value(), 0, {}});
        return;
    }
    if (set.stream.GeneralSecondaryFlags & no_fat_chain) {
        lay_out(e, set, place);
    } else if (const auto chain = old_chain(set)) {
        lay_out(e, set, *chain);
    } else {
        place.known = e.size <= grid_.cluster_size;
        place.fact.reset();
        place.runs = guess(e, place.runs.front().first, e.size);
        lay_out(e, set, place);
    }
}

void Reader::place_lost_folder(Entry& e, const EntrySet& set) {
    const auto start = set.stream.FirstCluster.value();
    auto place = recorded_run(set);
    // An empty folder's cluster holds zeros; anything else than sets means that it was written over.
    if (place.runs.empty() || !is_free(start)) {
        e.evidence.push_back({Fact::folder_lost_self, start, 0, {}});
        return;
    }
    const bool contiguous = set.stream.GeneralSecondaryFlags & no_fat_chain;
    const auto chain = contiguous ? std::nullopt : old_chain(set);
    if (chain) place.runs = chain->runs;
    if (!found_lost_folder(e, start, place.runs)) return;
    if (!contiguous && !chain && place.runs.front().count > 1) e.layout = Layout::assumed;
}

// Folders whose own entry is gone.

Reader::Look Reader::look_at(Cluster cluster, Bytes first) const {
    // A look at two types turns nearly everything away before the cluster is taken apart.
    if ((first[0] & ~in_use_bit) != type_file || (first[32] & ~in_use_bit) != type_stream) return {};
    const auto range = grid_.range({cluster, 1});
    const auto listing = parse_folder(FolderBytes(source_, {range}));
    const bool begins = !listing.sets.empty() && listing.sets.front().source_offset == range.offset &&
                        listing.sets.front().checksum_holds;
    return {begins ? Part::tail : Part::none, 0};
}

}  // namespace undershelf::exfat
