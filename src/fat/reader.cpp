#include "fat/reader.hpp"

#include <fmt/format.h>

#include <algorithm>

#include "fat/entries.hpp"

namespace undershelf::fat {

Reader::Reader(const Source& source, const Volume& volume, const Geometry& geometry,
               const ReadOptions& options)
    : Reader(source, volume, options, Table(source, volume.offset, geometry), std::nullopt) {}

Reader::Reader(const Source& source, const Volume& volume, const ReadOptions& options, Table&& table,
               std::optional<clusters::FormerFolders>&& former)
    : clusters::Reader(source, volume, table.grid(), table.known_clusters(), std::move(former)),
      geometry_(table.geometry()),
      options_(options),
      page_(options.code_page),
      table_(std::move(table)),
      starts_(source, table_) {}

std::vector<Structure> Reader::tables() const {
    const auto& g = geometry_;
    Structure boot{"boot sectors", {{volume_.offset, g.fat_offset}}}, fats{"FATs", {}};
    for (std::uint32_t i = 0; i < g.fat_count; ++i)
        fats.ranges.push_back({volume_.offset + g.fat_offset + i * g.fat_size, g.fat_size});
    return {std::move(boot), std::move(fats)};
}

std::vector<ByteRange> Reader::root(std::vector<Run>& runs) {
    if (geometry_.width != Width::fat32)
        return {{volume_.offset + geometry_.root_offset, geometry_.root_size}};
    runs =
        table_.follow(geometry_.root_cluster, 0, {grid_.clusters_for(bound::folder_bytes), 0}, taken_).runs;
    // The root folder's own entry says nothing, so a root without a chain still has its first cluster.
    if (runs.empty() && grid_.holds(geometry_.root_cluster)) runs.push_back({geometry_.root_cluster, 1});
    return grid_.ranges(runs);
}

Reader::Noted Reader::read_live(const Folder& folder, const FolderBytes& bytes, EntrySink& sink) {
    if (folder.key == root_key && table_.differing_clusters()) {
        sink.diagnostic(
            fmt::format("The two FATs of the volume at {} differ in {} entries; each chain is taken from the "
                        "one in which it holds better.",
                        volume_.offset, table_.differing_clusters()));
    }
    const auto notes = walk_folder(bytes, [&](ShortEntry&& slots) {
        const auto start = start_cluster(slots.entry, geometry_.width);
        if (slots.erased && grid_.holds(start)) near_.push_back(grid_.offset(start));
        if (slots.erased && is_plausible(slots.entry, true)) starts_.learn(slots.entry);
        if (!slots.erased && !slots.after_end && !(slots.entry.DIR_Attr & ATTR_VOLUME_ID))
            read_live_entry(slots, folder, sink);
        return !stopped();
    });
    return {notes.lost, notes.leftovers, notes.unreadable_slots};
}

Chain Reader::live_chain(Entry& e, Cluster start, std::uint64_t wanted) {
    if (!grid_.holds(start)) {
        if (wanted || e.is_dir)
            e.evidence.push_back({start ? Fact::start_outside : Fact::no_start, start, 0, {}});
        Chain none;
        none.end = ChainEnd::outside;
        return none;
    }
    const auto most = e.is_dir ? grid_.clusters_for(bound::folder_bytes) : std::uint64_t{grid_.count};
    auto chain = table_.follow(start, wanted, {most, e.is_dir ? 1 : crossing_limit(wanted)}, taken_);
    take_crossing(chain);
    return chain;
}

void Reader::read_live_entry(const ShortEntry& slots, const Folder& folder, EntrySink& sink) {
    auto e = basic_entry(slots, folder.key, options_);
    name_entry(e, slots, page_, nullptr);
    if (e.name.empty() || !is_plausible(slots.entry, false)) {
        e.evidence.push_back({Fact::bad_metadata, 0, 0, "its folder slot has impossible values"});
    }
    const auto start = start_cluster(slots.entry, geometry_.width);
    const auto wanted = e.is_dir ? 0 : grid_.clusters_for(e.size);
    const auto chain = live_chain(e, start, wanted);
    e.claims = grid_.ranges(chain.runs);
    // A folder's clusters come one at a time over years; its age says nothing of the later ones.
    hold(chain.runs, e.is_dir ? 0 : ticks_of(e.created));
    if (e.is_dir) {
        e.layout = chain.runs.empty() ? Layout::none : Layout::known;
        if (chain.crosses) {
            say_folder_crosses(e, slots.source_offset, sink);
        } else if (!chain.runs.empty()) {
            found_folder(e, start, chain.runs);
        }
    } else {
        lay_out_live(e, chain, wanted);
        count_live(e, chain.runs, chain.end == ChainEnd::end_mark);
    }
    if (!chain.runs.empty()) {
        starts_.add_neighbour(clusters::written(e), start);
        starts_.learn_live(start);
        live_files_.push_back({start, static_cast<std::uint32_t>(e.size), ticks_of(e.modified),
                               ticks_of(e.created), e.key, e.is_dir});
    }
    sink.entry(std::move(e));
}

void Reader::lay_out_live(Entry& e, const Chain& chain, std::uint64_t wanted) const {
    e.layout = wanted == 0 || !chain.runs.empty() ? Layout::known : Layout::none;
    e.pieces = clusters::pieces_in(e.claims, e.size, true);
    if (wanted == 0) return;
    const auto have = chain.clusters();
    if (chain.second_copy) e.evidence.push_back({Fact::chain_from_second_fat, 0, 0, {}});
    if (chain.crosses) e.evidence.push_back({Fact::chain_crosses, 0, 0, {}});
    if (have > wanted) e.evidence.push_back({Fact::chain_too_long, have * grid_.cluster_size, 0, {}});
    if (chain.end == ChainEnd::outside && have)
        e.evidence.push_back({Fact::chain_leaves_volume, have, 0, {}});
    if (chain.end == ChainEnd::loop)
        e.evidence.push_back({Fact::bad_metadata, 0, 0, "its chain runs in a circle"});
    if (have >= wanted) {
        e.evidence.push_back({Fact::live_chain, 0, 0, {}});
        return;
    }
    e.evidence.push_back({Fact::chain_too_short, have * grid_.cluster_size, 0, {}});
    if (chain.end != ChainEnd::unreadable || chain.runs.empty()) return;
    // The books are unreadable there, so the rest may well follow on: clusters that nobody else holds.
    const auto next = chain.runs.back().end();
    const auto end = taken_.next_in(next, std::min(grid_.end(), next + (wanted - have)));
    if (end <= next) return;
    auto runs = chain.runs;
    clusters::append_run(runs, {next, static_cast<std::uint32_t>(end - next)});
    e.pieces = clusters::pieces_in(grid_.ranges(runs), e.size, true);
    const auto known = have * grid_.cluster_size;
    for (auto& p : e.pieces) p.known = p.offset < known;
    e.layout = Layout::assumed;
}

}  // namespace undershelf::fat
