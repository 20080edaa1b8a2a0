#include <algorithm>

#include "base/text.hpp"
#include "exfat/reader.hpp"

namespace undershelf::exfat {

namespace {
constexpr std::uint64_t looked_at = 2 * 19 * 32;  ///< bytes: the rest of a set, and the longest one behind it
}  // namespace

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

void Reader::read_lost_set(const EntrySet& set, const Folder& folder, EntrySink& sink, bool in_slack) {
    auto e = basic_entry(set, folder.key);
    e.origin = lost_origin(!set.in_use || set.after_end);
    if (in_slack) {
        e.evidence.push_back({Fact::in_slack, 0, 0, {}});
    } else if (set.after_end) {
        e.evidence.push_back({Fact::after_end_mark, 0, 0, {}});
    }
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
        note_lost(e, place.runs);
        lay_out(e, set, place);
    } else if (const auto chain = old_chain(set)) {
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
    if (!found_lost_folder(
            e, start, followed ? std::vector<Run>{} : place.runs, may_have_grown ? grid_.count : wanted,
            may_have_grown ? clusters::LostFolders::How::surely : clusters::LostFolders::How::likely))
        return;
    if (followed && (!may_have_grown || e.claims.size() > 1 || total_length(e.claims) > grid_.cluster_size))
        e.layout = Layout::assumed;
}

// Folders whose own entry is gone.

Reader::Look Reader::look_at(Cluster cluster, Bytes first) const {
    // A look at one type turns nearly everything away before more of the cluster is read. A folder's second
    // cluster may begin in the middle of a set.
    const auto kind = static_cast<std::uint8_t>(first[0] & ~in_use_bit);
    const auto next = static_cast<std::uint8_t>(first[32] & ~in_use_bit);
    if (!(kind == type_file && next == type_stream) && !(kind == type_stream && next == type_name) &&
        !(kind == type_name && (next == type_name || next == type_file || next == 0)))
        return {};
    const auto range = grid_.range({cluster, 1});
    const auto head = source_.read_vector({range.offset, std::min<std::uint64_t>(range.length, looked_at)});
    const auto at = first_sound_set(head);
    if (!at) return {kind == type_file ? Part::none : Part::rest, 0};
    return {*at == 0 ? Part::any : Part::tail, 0};
}

/// A set that begins in one cluster and verifies with the other's first slots ties the two together, wherever
/// they stand.
std::optional<bool> Reader::joined(Cluster before, Cluster after) const {
    const auto first = grid_.range({before, 1}), second = grid_.range({after, 1});
    const auto length = std::min<std::uint64_t>(first.length, looked_at);
    return set_goes_on(source_.read_vector({first.end() - length, length}),
                       source_.read_vector({second.offset, length}));
}

bool Reader::surely_goes_on(Cluster before, Cluster after) const {
    const auto tied = joined(before, after);
    return tied ? *tied : written_on(before, after);
}

/// The last set of a cluster that is full, which ends with it.
std::optional<EntrySet> Reader::last_set_in(Cluster cluster) const {
    const auto range = grid_.range({cluster, 1});
    const auto length = std::min<std::uint64_t>(range.length, looked_at);
    const auto bytes = source_.read_vector({range.end() - length, length});
    constexpr std::size_t slot = FolderBytes::slot_size;
    for (auto left = 2 * slot; left <= bytes.size(); left += slot) {
        const auto tail = Bytes(bytes).last(left);
        if (static_cast<std::uint8_t>(tail[0] & ~in_use_bit) != type_file) continue;
        return (std::size_t{tail[1]} + 1) * slot == left ? sound_set(tail) : std::nullopt;
    }
    return std::nullopt;
}

Cluster Reader::written_up_to(Cluster before) const {
    const auto set = last_set_in(before);
    if (!set || set->stream.FirstCluster.value() < 2 || set->stream.DataLength.value() == 0) return 0;
    const auto end = set->stream.FirstCluster.value() + grid_.clusters_for(set->stream.DataLength.value());
    return grid_.holds(end) ? static_cast<Cluster>(end) : 0;
}

/// A folder that was filled file by file goes on where its writer was then: its next cluster, and the first
/// file that this one names, come right behind the last file that the cluster before names, and are not
/// older.
bool Reader::written_on(Cluster before, Cluster after) const {
    constexpr std::uint64_t others = 4;  // clusters that something else may have got in between
    const std::uint64_t from = written_up_to(before);
    const auto last = last_set_in(before);
    const auto first = sound_set(
        source_.read_vector({grid_.offset(after), std::min<std::uint64_t>(grid_.cluster_size, looked_at)}));
    if (from == 0 || !first || first->stream.DataLength.value() == 0) return false;
    const auto to = from + grid_.clusters_for(first->stream.DataLength.value()) + others;
    const std::uint64_t start = first->stream.FirstCluster.value();
    const auto made = [](const EntrySet& set) {
        return timestamp(set.file.CreateTimestamp.value(), set.file.Create10msIncrement,
                         set.file.CreateUtcOffset);
    };
    const auto earlier = made(*last), later = made(*first);
    return after >= from && after < to && start >= from && start < to && start != after &&
           (!earlier || !later || earlier->ticks <= later->ticks);
}

/// Where no set tells, a folder goes on in the next cluster, or where its writer was: if it is full, for an
/// end mark (section 6.2.1) is the last entry, and unless another folder is said to begin there.
bool Reader::goes_on(Cluster before, Cluster after) const {
    if (const auto tied = joined(before, after)) return *tied;
    const auto end = grid_.range({before, 1}).end();
    if (source_.read_vector({end - FolderBytes::slot_size, 1})[0] == 0 || begins_a_folder(after))
        return false;
    const auto length = std::min<std::uint64_t>(grid_.cluster_size, looked_at);
    if (after == before + 1)
        return first_sound_set(source_.read_vector({grid_.offset(after), length})).has_value();
    return written_on(before, after);
}

// Sets in the slack of files.

/// Behind a live file's end its last cluster still holds what a folder left there that once had it. Looks at
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
        // What stands there may be anybody's bytes: only what proves itself counts.
        if (!set.checksum_holds && !set.headless) continue;
        if (!grid_.holds(set.stream.FirstCluster.value()) && set.stream.DataLength.value() > 0) continue;
        if (!folder) folder = former_folder(grid_.cluster_at(range.offset), sink);
        read_lost_set(set, *folder, sink, true);
    }
}

}  // namespace undershelf::exfat
