// The part of the reader that works out what was deleted; the live tree has been read before.

#include <fmt/format.h>

#include <algorithm>

#include "base/text.hpp"
#include "fat/entries.hpp"
#include "fat/reader.hpp"

namespace undershelf::fat {

void Reader::live_is_read() {
    std::sort(live_files_.begin(), live_files_.end(),
              [](const LiveFile& a, const LiveFile& b) { return a.start < b.start; });
    starts_.settle_neighbours();
}

void Reader::read_lost(const Folder& folder, const FolderBytes& bytes, bool leftovers, EntrySink& sink) {
    const SeriesLetters siblings(bytes);
    const auto notes = walk_folder(bytes, [&](ShortEntry&& slots) {
        const bool lost = slots.erased || slots.after_end || !folder.live;
        if (lost && slots.after_end == leftovers && !(slots.entry.DIR_Attr & ATTR_VOLUME_ID))
            read_lost_entry(slots, folder, siblings, sink);
        return !stopped();
    });
    if (!leftovers) return;
    for (const auto& orphan : notes.orphans)
        emit_fragment(utf8_from_utf16(orphan.name), orphan.source_offset, folder, sink);
}

void Reader::read_lost_entry(const ShortEntry& slots, const Folder& folder, const SeriesLetters& siblings,
                             EntrySink& sink) {
    // A slot in a live folder was an entry once; what is after an end mark may be anything.
    if (!is_plausible(slots.entry, slots.erased)) return;
    auto e = basic_entry(slots, folder.key, options_);
    e.origin = origin_by_mark(slots.erased || slots.after_end);
    name_entry(e, slots, page_, &siblings);
    if (slots.after_end) e.evidence.push_back({Fact::after_end_mark, 0, 0, {}});
    // A rename or move leaves a slot, too: the file itself is still told of elsewhere.
    for (const auto candidate : starts_.candidates(slots.entry)) {
        if (const auto* live = old_slot_of(e, candidate)) {
            sink.old_name(live->key,
                          {folder.key, e.name, e.name_certainty != NameCertainty::full, slots.source_offset});
            return;
        }
    }
    if (e.is_dir) {
        place_lost_folder(e, slots.entry);
    } else {
        place_lost_file(e, slots.entry);
    }
    sink.entry(std::move(e));
}

const Reader::LiveFile* Reader::old_slot_of(const Entry& e, Cluster start) const {
    if (!grid_.holds(start)) return nullptr;
    auto it = std::lower_bound(live_files_.begin(), live_files_.end(), start,
                               [](const LiveFile& f, Cluster c) { return f.start < c; });
    for (; it != live_files_.end() && it->start == start; ++it) {
        if (it->is_dir != e.is_dir) continue;
        const bool same_birth = it->created != 0 && it->created == ticks_of(e.created);
        const bool same_state = it->size == e.size && it->modified == ticks_of(e.modified);
        if (same_birth || (same_state && !e.is_dir)) return &*it;
    }
    return nullptr;
}

void Reader::place_lost_file(Entry& e, const DirEntry& raw) {
    if (e.size == 0) {
        place_empty(e);
        return;
    }
    const auto argued = starts_.find_file(raw, e);
    const auto start = argued.cluster;
    if (start == 0) {
        report_bad_start(e, raw);
        return;
    }
    e.start = grid_.offset(start);
    if (is_former() && lay_out_by_old_chain(e, raw)) return;
    if (argued.rebuilt || argued.rivals > 1)
        e.evidence.push_back({Fact::high_word_argued, start, argued.rivals, {}});
    e.claims = grid_.ranges(guess(e, start, e.size));
    const bool one = e.size <= grid_.cluster_size;
    e.layout = one ? Layout::known : Layout::assumed;
    e.pieces = clusters::pieces_in(e.claims, e.size, one);
}

/// What is left of a former volume's FATs may hold the chain: then the layout is known, fragments included.
bool Reader::lay_out_by_old_chain(Entry& e, const DirEntry& raw) {
    const auto start = start_cluster(raw, geometry_.width);
    const auto wanted = grid_.clusters_for(e.size);
    if (e.origin == Origin::deleted || !grid_.holds(start)) return false;
    const auto most = std::min(wanted + 1, budget_->left(Budget::Cost::crossing));
    auto chain = table_.follow(start, wanted, {most, most}, taken_);
    if (chain.end == ChainEnd::unreadable) bridge(chain, wanted, most);
    budget_->take(Budget::Cost::crossing, chain.clusters());
    if (chain.end == ChainEnd::unreadable && chain.clusters() < wanted) return lay_out_broken(e, chain);
    if (chain.end != ChainEnd::end_mark || chain.clusters() != wanted) return false;
    e.claims = grid_.ranges(chain.runs);
    e.layout = Layout::known;
    e.pieces = clusters::pieces_in(e.claims, e.size, true);
    e.evidence.push_back({Fact::former_chain, chain.runs.size(), 0, {}});
    note_lost(e, chain.runs);
    return true;
}

/// A chain whose next entry is lost, and which goes on in the next clusters up to where entries are left
/// again: that is so for certain when it then comes out at the file's length.
void Reader::bridge(Chain& chain, std::uint64_t wanted, std::uint64_t most) const {
    const std::uint64_t next = chain.runs.back().end(), have = chain.clusters();
    if (have >= wanted || most <= have) return;
    const auto behind = table_.first_left(next, next + std::min(wanted, most) - have);
    if (!behind) return;
    const auto rest = table_.follow(static_cast<Cluster>(*behind), 0, {most, most}, taken_);
    if (rest.end != ChainEnd::end_mark || have + (*behind - next) + rest.clusters() != wanted) return;
    clusters::append_run(chain.runs,
                         {static_cast<Cluster>(next), static_cast<std::uint32_t>(*behind - next)});
    for (const auto& run : rest.runs) clusters::append_run(chain.runs, run);
    chain.end = ChainEnd::end_mark;
}

/// A chain that runs into a part of the FAT that is lost, after some clusters: there it is taken to go on in
/// the next ones.
bool Reader::lay_out_broken(Entry& e, const Chain& chain) {
    const auto known = chain.clusters();
    if (known < 2) return false;
    const auto next = chain.runs.back().end();
    const auto more = std::min<std::uint64_t>(grid_.clusters_for(e.size) - known, grid_.end() - next);
    auto runs = chain.runs;
    clusters::append_run(runs, {next, static_cast<std::uint32_t>(more)});
    e.claims = grid_.ranges(runs);
    e.layout = Layout::assumed;
    e.pieces = clusters::pieces_in(e.claims, e.size, true);
    for (auto& p : e.pieces) p.known = p.offset + p.length <= known * grid_.cluster_size;
    e.evidence.push_back({Fact::former_chain, chain.runs.size(), 0, {}});
    e.evidence.push_back({Fact::chain_too_short, known * grid_.cluster_size, 0, {}});
    return true;
}

bool Reader::is_own_folder(Cluster start, const DirEntry& raw) const {
    const auto head = source_.read_vector({grid_.offset(start), 2 * slot_size});
    if (!begins_with_dots(head)) return false;
    const auto dot = *load<DirEntry>(head);
    if (start_cluster(dot, geometry_.width) != start) return false;
    // A younger folder in the same cluster has a '.' entry of its own age.
    return raw.DIR_CrtDate.value() == 0 || dot.DIR_CrtDate.value() == 0 ||
           (raw.DIR_CrtDate.value() == dot.DIR_CrtDate.value() &&
            raw.DIR_CrtTime.value() == dot.DIR_CrtTime.value());
}

std::vector<Run> Reader::folder_chain(Cluster start) {
    if (!is_former()) return {};
    const auto most =
        std::min(grid_.clusters_for(bound::folder_bytes), budget_->left(Budget::Cost::crossing));
    auto chain = table_.follow(start, 0, {most, most}, taken_);
    budget_->take(Budget::Cost::crossing, chain.clusters());
    return chain.end == ChainEnd::end_mark ? std::move(chain.runs) : std::vector<Run>();
}

void Reader::report_bad_start(Entry& e, const DirEntry& raw) const {
    const auto start = start_cluster(raw, geometry_.width);
    e.evidence.push_back({start ? Fact::start_outside : Fact::no_start, start, 0, {}});
}

void Reader::place_lost_folder(Entry& e, const DirEntry& raw) {
    const auto candidates = starts_.candidates(raw);
    const auto own = std::find_if(candidates.begin(), candidates.end(),
                                  [&](Cluster c) { return !reused(c) && is_own_folder(c, raw); });
    if (candidates.empty()) {
        report_bad_start(e, raw);
        return;
    }
    e.start = grid_.offset(own == candidates.end() ? candidates.front() : *own);
    if (own == candidates.end()) {
        e.evidence.push_back({Fact::folder_lost_self, candidates.front(), 0, {}});
        return;
    }
    if (found_lost_folder(e, *own) && *own != start_cluster(raw, geometry_.width))
        e.evidence.push_back({Fact::high_word_argued, *own, 1, {}});
}

}  // namespace undershelf::fat
