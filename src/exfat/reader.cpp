#include "exfat/reader.hpp"

#include <fmt/format.h>

#include <algorithm>

#include "base/text.hpp"

namespace undershelf::exfat {

namespace {
/// Section 7.4: a folder has at most 256 MiB.
constexpr std::uint64_t most_folder_bytes = 256ull << 20;
/// How much free space is read in search of folders whose own entry is gone; the rest is found by sweeping.
constexpr std::uint64_t most_search_bytes = 256ull << 20;

}  // namespace

Reader::Reader(const Source& source, const Volume& volume, const Geometry& geometry)
    : source_(source),
      volume_(volume),
      geometry_(geometry),
      allocation_(source, volume.offset, geometry),
      taken_(std::size_t{geometry.clusters()} + 2) {}

std::vector<ByteRange> Reader::source_ranges(const std::vector<Run>& runs) const {
    std::vector<ByteRange> out;
    for (const auto& r : runs)
        out.push_back({volume_.offset + geometry_.cluster_offset(r.first),
                       std::uint64_t{r.count} * geometry_.cluster_size});
    return out;
}

void Reader::read(EntrySink& sink, Progress& progress) {
    sink.in_use({volume_.offset, geometry_.heap_offset});
    if (!allocation_.has_bitmap())
        sink.diagnostic(
            fmt::format("The allocation bitmap of the exFAT volume at offset {} cannot be read; what is in "
                        "use is taken from live files alone.",
                        volume_.offset));
    progress.stage("reading folders");
    const auto root = allocation_.follow(geometry_.boot.FirstClusterOfRootDirectory.value(),
                                         most_folder_bytes / geometry_.cluster_size);
    claim(root.runs);
    std::vector<Folder> waiting{{root_key, source_ranges(root.runs), true}};
    for (const auto& r : waiting.front().ranges) sink.in_use(r);
    std::uint64_t done = 0;
    while (!waiting.empty() && !progress.stopped()) {
        auto folder = std::move(waiting.back());
        waiting.pop_back();
        std::vector<Folder> found;
        read_live_folder(folder, sink, found);
        folders_.push_back(std::move(folder));
        std::move(found.rbegin(), found.rend(), std::back_inserter(waiting));
        ++done;
        progress.at(done, done + waiting.size());
    }
    report_unowned(sink);
    search_free_space(progress);
    progress.stage("reading deleted entries");
    read_lost(sink, progress, 0, false);
    read_ownerless_folders(sink, progress);
}

void Reader::remnants(EntrySink& sink, Progress& progress) {
    progress.stage("reading remnants");
    read_lost(sink, progress, 0, true);
}

// The live tree.

void Reader::read_live_folder(const Folder& folder, EntrySink& sink, std::vector<Folder>& found) {
    if (folder.ranges.empty()) return;
    const auto listing = parse_folder(FolderBytes(source_, folder.ranges));
    if (listing.unreadable_slots) {
        sink.diagnostic(fmt::format(
            "The folder at offset {} has {} slots that cannot be read; entries in them are unknown.",
            folder.ranges.front().offset, listing.unreadable_slots));
    }
    for (const auto& set : listing.sets) {
        if (set.in_use && !set.after_end) read_live_set(set, folder, sink, found);
    }
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

Reader::Place Reader::live_place(const EntrySet& set) const {
    Place place;
    const auto start = set.stream.FirstCluster.value();
    const auto wanted = clusters_for(set.stream.DataLength.value());
    if (wanted == 0 || !geometry_.holds(start)) return place;
    if (set.stream.GeneralSecondaryFlags & no_fat_chain) {
        place.runs.push_back({start, static_cast<std::uint32_t>(std::min<std::uint64_t>(
                                         wanted, geometry_.clusters() - (start - 2)))});
    } else {
        place.fact = Fact::live_chain;
        place.runs = allocation_.follow(start, wanted).runs;
    }
    return place;
}

void Reader::lay_out(Entry& e, const EntrySet& set, const Place& place) const {
    e.claims = source_ranges(place.runs);
    e.layout = e.size == 0          ? Layout::known
               : place.runs.empty() ? Layout::none
               : place.known        ? Layout::known
                                    : Layout::assumed;
    if (e.size == 0 || place.runs.empty()) return;
    e.evidence.push_back({place.fact, place.runs.size(), 0, {}});
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

void Reader::read_live_set(const EntrySet& set, const Folder& folder, EntrySink& sink,
                           std::vector<Folder>& found) {
    auto e = basic_entry(set, folder);
    const auto place = live_place(set);
    const auto start = set.stream.FirstCluster.value();
    const bool taken =
        std::any_of(place.runs.begin(), place.runs.end(), [&](const Run& r) { return taken_[r.first]; });
    if (e.is_dir) {
        e.claims = source_ranges(place.runs);
        e.layout = place.runs.empty() ? Layout::none : Layout::known;
        if (taken) {
            sink.diagnostic(
                fmt::format("The folder {} (slot at offset {}) starts in clusters that another folder or "
                            "file holds; it is not followed.",
                            e.name, set.source_offset));
        } else if (!place.runs.empty()) {
            auto ranges = e.claims;
            if (total_length(ranges) > most_folder_bytes)
                ranges.resize(1), ranges[0].length = std::min(ranges[0].length, most_folder_bytes);
            found.push_back({e.key, std::move(ranges), true});
            folder_starts_.emplace(start, e.key);
        }
    } else {
        lay_out(e, set, place);
        if (taken) e.evidence.push_back({Fact::chain_crosses, 0, 0, {}});
        ++live_count_;
        empty_live_ += e.size == 0;
        if (clusters_for(e.size) > 1) {
            ++long_live_;
            contiguous_live_ += place.runs.size() == 1;
        }
    }
    claim(place.runs);
    if (!place.runs.empty())
        live_files_.emplace(start,
                            LiveFile{set.stream.DataLength.value(), ticks_of(e.created), e.key, e.is_dir});
    sink.entry(std::move(e));
}

void Reader::claim(const std::vector<Run>& runs) {
    for (const auto& r : runs) {
        for (Cluster c = r.first; c < r.first + r.count; ++c) taken_[c] = true;
    }
}

void Reader::report_unowned(EntrySink& sink) {
    std::vector<Run> runs;
    for (Cluster c = 2; c < geometry_.clusters() + 2; ++c) {
        if (allocation_.in_use(c) && !taken_[c]) append_cluster(runs, c);
    }
    for (const auto& r : source_ranges(runs)) sink.in_use(r);
}

// What was deleted.

std::vector<Run> Reader::next_free(Cluster start, std::uint64_t clusters) const {
    std::vector<Run> out;
    std::uint64_t count = 0;
    for (Cluster c = start; geometry_.holds(c) && count < clusters; ++c) {
        if (c != start && (allocation_.in_use(c) || taken_[c])) continue;
        append_cluster(out, c);
        ++count;
    }
    return out;
}

Reader::Place Reader::lost_place(const EntrySet& set) const {
    auto place = live_place(set);
    const auto start = set.stream.FirstCluster.value();
    const auto wanted = clusters_for(set.stream.DataLength.value());
    if (place.runs.empty() || (set.stream.GeneralSecondaryFlags & no_fat_chain)) return place;
    // The old chain usually stands in the FAT still: it counts when it fits, and nobody has its clusters now.
    const auto chain = allocation_.follow(start, wanted + 1);
    bool free = true;
    for (const auto& r : chain.runs) {
        for (Cluster c = r.first; c < r.first + r.count && free; ++c)
            free = !allocation_.in_use(c) && !taken_[c];
    }
    if (chain.ended && chain.clusters == wanted && (free || wanted == 1)) {
        place.runs = chain.runs;
        place.fact = Fact::extents_known;
        return place;
    }
    place.runs = next_free(start, wanted);
    place.known = wanted == 1;
    place.fact = wanted == 1             ? Fact::single_cluster
                 : place.runs.size() > 1 ? Fact::next_free
                                         : Fact::contiguous;
    return place;
}

void Reader::read_lost(EntrySink& sink, Progress& progress, std::size_t from, bool behind_end) {
    // Deleted folders found on the way are appended, and read in their turn.
    for (std::size_t i = from; i < folders_.size() && !progress.stopped(); ++i) {
        const auto folder = folders_[i];
        const auto listing = parse_folder(FolderBytes(source_, folder.ranges));
        for (const auto& set : listing.sets) {
            const bool lost = !set.in_use || set.after_end || !folder.live;
            if (lost && set.after_end == behind_end) read_lost_set(set, folder, sink);
        }
        if (behind_end) {
            for (const auto& fragment : listing.fragments) read_fragment(fragment, folder, sink);
        }
        progress.at(i + 1, folders_.size());
    }
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
        e.layout = Layout::known;
        e.evidence.push_back({Fact::empty_slot, empty_live_, live_count_, {}});
    } else {
        const auto place = lost_place(set);
        lay_out(e, set, place);
        if (place.runs.empty())
            e.evidence.push_back({Fact::start_outside, set.stream.FirstCluster.value(), 0, {}});
        if (!place.known) e.evidence.push_back({Fact::layout_prior, contiguous_live_, long_live_, {}});
    }
    sink.entry(std::move(e));
}

bool Reader::begins_with_set(Cluster cluster) const {
    const auto range = source_ranges({{cluster, 1}}).front();
    const auto head = source_.read_vector({range.offset, 2 * FolderBytes::slot_size});
    // A look at two types turns nearly everything away before the cluster is taken apart.
    if ((head[0] & ~in_use_bit) != type_file || (head[32] & ~in_use_bit) != type_stream) return false;
    const auto listing = parse_folder(FolderBytes(source_, {range}));
    return !listing.sets.empty() && listing.sets.front().source_offset == range.offset &&
           listing.sets.front().checksum_holds;
}

void Reader::place_lost_folder(Entry& e, const EntrySet& set) {
    const auto start = set.stream.FirstCluster.value();
    const auto place = lost_place(set);
    // An empty folder's cluster holds zeros; anything else than sets means that it was written over.
    const bool own = !place.runs.empty() && !taken_[start] && !allocation_.in_use(start);
    if (!own || !folder_starts_.emplace(start, e.key).second) {
        e.evidence.push_back({Fact::folder_lost_self, start, 0, {}});
        return;
    }
    for (const auto& r : place.runs) {
        for (Cluster c = r.first; c < r.first + r.count; ++c) ownerless_.erase(c);
    }
    e.claims = source_ranges(place.runs);
    e.layout = place.known ? Layout::known : Layout::assumed;
    if (total_length(e.claims) <= most_folder_bytes) folders_.push_back({e.key, e.claims, false});
}

void Reader::read_fragment(const NameFragment& fragment, const Folder& folder, EntrySink& sink) const {
    Entry e;
    e.key = {fragment.source_offset, 1};
    e.parent = folder.key;
    e.origin = Origin::deleted;
    e.name = utf8_from_utf16(fragment.name);
    e.name_certainty = NameCertainty::fragment;
    e.evidence.push_back({Fact::name_fragment, 0, 0, {}});
    sink.entry(std::move(e));
}

// Folders whose own entry is gone.

void Reader::search_free_space(Progress& progress) {
    progress.stage("looking for lost folders");
    const auto heap = volume_.offset + geometry_.heap_offset;
    const auto end =
        std::min(source_.size(), heap + std::uint64_t{geometry_.clusters()} * geometry_.cluster_size);
    if (heap >= end) return;
    std::uint64_t budget = most_search_bytes;
    const RangeSet holding(source_.data_ranges());
    for (const auto& part : holding.within({heap, end - heap})) {
        for (auto at = (part.offset - heap) / geometry_.cluster_size;
             heap + at * geometry_.cluster_size < part.end() && budget > 0 && !progress.stopped(); ++at) {
            const auto c = static_cast<Cluster>(at + 2);
            if (!geometry_.holds(c) || taken_[c] || allocation_.in_use(c)) continue;
            if (begins_with_set(c)) ownerless_.insert(c);
            budget -=
                std::min<std::uint64_t>(budget, std::min<std::uint64_t>(geometry_.cluster_size, 64 << 10));
            if (at % 1024 == 0) progress.at(at * geometry_.cluster_size, end - heap);
        }
    }
}

void Reader::read_ownerless_folders(EntrySink& sink, Progress& progress) {
    while (!ownerless_.empty() && !progress.stopped()) {
        const auto first = *ownerless_.begin();
        ownerless_.erase(ownerless_.begin());
        std::vector<Run> runs{{first, 1}};
        // Clusters that follow directly are taken to be of the same folder.
        while (ownerless_.erase(runs.back().first + runs.back().count)) ++runs.back().count;
        Entry e;
        e.claims = source_ranges(runs);
        e.key = {e.claims.front().offset, 2};
        e.origin = Origin::deleted;
        e.is_dir = true;
        e.layout = Layout::known;
        e.name = fmt::format("folder-{}", first);
        e.name_certainty = NameCertainty::made_up;
        e.evidence.push_back({Fact::stand_in_name, first, 0, {}});
        const auto before = folders_.size();
        folders_.push_back({e.key, e.claims, false});
        sink.entry(std::move(e));
        read_lost(sink, progress, before, false);
    }
}

}  // namespace undershelf::exfat
