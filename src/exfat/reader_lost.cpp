#include <algorithm>

#include "base/text.hpp"
#include "exfat/reader.hpp"

namespace undershelf::exfat {

// What was deleted.

/// The old chain usually is in the FAT still: it counts when it fits, and nobody has its clusters now.
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

void Reader::read_lost_set(const EntrySet& set, const Folder& folder, EntrySink& sink, bool in_slack) {
    auto e = basic_entry(set, folder.key);
    e.origin = origin_by_mark(!set.in_use || set.after_end);
    if (in_slack) {
        e.evidence.push_back({Fact::in_slack, 0, 0, {}});
    } else if (set.after_end) {
        e.evidence.push_back({Fact::after_end_mark, 0, 0, {}});
    }
    if (const auto live = old_set_of(set, e)) {
        sink.old_name(*live,
                      {folder.key, e.name, e.name_certainty != NameCertainty::full, set.source_offset});
        return;
    }
    if (grid_.holds(set.stream.FirstCluster.value())) e.start = grid_.offset(set.stream.FirstCluster.value());
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
        note_lost(e, place.runs);
        lay_out(e, set, place);
    } else if (const auto chain = old_chain(set)) {
        const auto clusters = cluster_total(chain->runs);
        if (clusters > 1) chained_habit_.count(clusters, chain->runs.size() == 1);
        note_lost(e, chain->runs);
        lay_out(e, set, *chain);
    } else {
        place.known = e.size <= grid_.cluster_size;
        place.fact.reset();
        // Drivers clear the bit when a file stops being one run; a volume on which nobody sets it says
        // nothing by that.
        const auto chained = chained_habit_.share(grid_.clusters_for(e.size));
        std::optional<Habit> habit;
        if (sets_no_fat_chain_) habit = Habit{Fact::chain_freed, chained.contiguous, chained.files};
        place.runs = guess(e, place.runs.front().first, e.size, habit);
        lay_out(e, set, place);
    }
}

void Reader::place_lost_folder(Entry& e, const EntrySet& set) {
    const auto start = set.stream.FirstCluster.value();
    auto place = recorded_run(set);
    // An empty folder's cluster holds zeros; anything else than sets means that it was written over.
    if (place.runs.empty() || !is_free(start)) {
        if (!place.runs.empty()) note_overwritten_folder(start, e.key);
        e.evidence.push_back({Fact::folder_lost_self, start, 0, {}});
        return;
    }
    const bool contiguous = set.stream.GeneralSecondaryFlags & no_fat_chain;
    const auto chain = contiguous ? std::nullopt : old_chain(set);
    if (chain) place.runs = chain->runs;
    const auto wanted = grid_.clusters_for(set.stream.DataLength.value());
    const bool followed = !contiguous && !chain;
    // Some drivers leave the size of a folder that grew as it was: then it goes on where that is certain
    // alone.
    const bool may_have_grown = followed && wanted <= 1;
    using How = clusters::LostFolders::How;
    const auto size = may_have_grown ? clusters::FolderSize{grid_.count, false, How::surely}
                                     : clusters::FolderSize{wanted, true, How::likely};
    if (!found_lost_folder(e, start, followed ? std::vector<Run>{} : place.runs, size)) return;
    if (followed && (!may_have_grown || total_length(e.claims) > grid_.cluster_size))
        e.layout = Layout::assumed;
}

// Sets in the slack of files.

/// After a live file's end its last cluster still holds what a folder left there that once had it. Looks at
/// a part of a large volume only: the rest is for sweeping.
void Reader::read_slack(EntrySink& sink, Progress& progress) {
    constexpr std::uint64_t least_cost = 4096;  // a seek is worth as much as this many bytes
    std::sort(slack_.begin(), slack_.end(),
              [](const ByteRange& a, const ByteRange& b) { return a.offset < b.offset; });
    const RangeSet holding(source_.data_ranges());
    auto left = bound::search_bytes;
    for (const auto& range : slack_) {
        if (progress.stopped()) return;
        const auto cost = std::max(range.length, least_cost);
        if (cost > left) break;
        if (!holding.touches(range)) continue;
        left -= cost;
        read_slack_of(range, sink);
    }
}

void Reader::read_slack_of(const ByteRange& range, EntrySink& sink) {
    const auto listing = parse_folder(FolderBytes(source_, {range}));
    std::optional<Folder> folder;
    for (const auto& set : listing.sets) {
        // What is there may be anybody's bytes: only what proves itself counts.
        if (!set.checksum_holds && !set.headless) continue;
        if (!grid_.holds(set.stream.FirstCluster.value()) && set.stream.DataLength.value() > 0) continue;
        if (!folder) folder = former_folder(grid_.cluster_at(range.offset), sink);
        read_lost_set(set, *folder, sink, true);
    }
}

}  // namespace undershelf::exfat
