#include "fat/reader.hpp"

#include <fmt/format.h>

#include <algorithm>

#include "fat/first_letter.hpp"

namespace undershelf::fat {

namespace {
/// Drivers keep folders to 65536 slots (specification, section 6.2); longer ones that stand there all the
/// same are read, within reason.
constexpr std::uint64_t most_folder_bytes = 64 * 65536 * slot_size;

}  // namespace

std::int64_t written(const Entry& e) {
    return std::max(ticks_of(e.modified), ticks_of(e.created));
}

std::vector<Piece> pieces_in(const std::vector<ByteRange>& ranges, std::uint64_t size, bool known) {
    std::vector<Piece> out;
    std::uint64_t at = 0;
    for (const auto& r : ranges) {
        if (at >= size) break;
        Piece p;
        p.known = known;
        p.offset = at;
        p.length = std::min(r.length, size - at);
        p.source = r.offset;
        at += p.length;
        out.push_back(std::move(p));
    }
    if (at < size) {
        Piece p;
        p.kind = PieceKind::missing;
        p.known = known;
        p.offset = at;
        p.length = size - at;
        out.push_back(std::move(p));
    }
    return out;
}

Reader::Reader(const Source& source, const Volume& volume, const Geometry& geometry,
               const ReadOptions& options)
    : source_(source),
      volume_(volume),
      geometry_(geometry),
      options_(options),
      page_(options.code_page),
      table_(source, volume.offset, geometry),
      taken_(geometry.cluster_count),
      starts_(source, volume.offset, table_) {}

ByteRange Reader::source_range(const Run& run) const {
    return {volume_.offset + geometry_.cluster_offset(run.first),
            std::uint64_t{run.count} * geometry_.cluster_size};
}

std::vector<ByteRange> Reader::source_ranges(const std::vector<Run>& runs) const {
    std::vector<ByteRange> out;
    out.reserve(runs.size());
    for (const auto& r : runs) out.push_back(source_range(r));
    return out;
}

std::uint64_t Reader::clusters_for(std::uint64_t bytes) const {
    return (bytes + geometry_.cluster_size - 1) / geometry_.cluster_size;
}

void Reader::read(EntrySink& sink, Progress& progress) {
    sink.in_use({volume_.offset, geometry_.data_offset});
    if (table_.differing_clusters()) {
        sink.diagnostic(
            fmt::format("The two FATs of the volume at {} differ in {} entries; each chain is taken from the "
                        "one in which it holds better.",
                        volume_.offset, table_.differing_clusters()));
    }
    read_live(sink, progress);
    report_unowned(sink);
    lost_layout_ = std::make_unique<LostLayout>(table_, std::move(live_extents_));
    std::sort(live_files_.begin(), live_files_.end(),
              [](const LiveFile& a, const LiveFile& b) { return a.start < b.start; });
    starts_.settle_neighbours();
    progress.stage("looking for lost folders");
    lost_folders_ = std::make_unique<LostFolders>(source_, volume_.offset, table_, hints_, progress);
    progress.stage("reading deleted entries");
    read_lost(sink, progress, 0, false);
    read_ownerless_folders(sink, progress);
}

void Reader::remnants(EntrySink& sink, Progress& progress) {
    progress.stage("reading remnants");
    read_lost(sink, progress, 0, true);
}

std::uint64_t Reader::most_folder_clusters() const {
    return most_folder_bytes / geometry_.cluster_size + 1;
}

// The live tree.

void Reader::read_live(EntrySink& sink, Progress& progress) {
    progress.stage("reading folders");
    Folder root{root_key, {}, true};
    if (geometry_.width == Width::fat32) {
        auto chain = table_.follow(geometry_.root_cluster, 0, {most_folder_clusters(), 0}, taken_);
        // The root folder's own entry says nothing, so a root without a chain still has its first cluster.
        if (chain.runs.empty()) chain.runs.push_back({geometry_.root_cluster, 1});
        claim_live(chain.runs, 0, true);
        root.ranges = source_ranges(chain.runs);
        for (const auto& r : root.ranges) sink.in_use(r);
    } else {
        root.ranges = {{volume_.offset + geometry_.root_offset, geometry_.root_size}};
    }
    std::vector<Folder> waiting;
    waiting.push_back(std::move(root));
    std::uint64_t done = 0;
    while (!waiting.empty() && !progress.stopped()) {
        auto folder = std::move(waiting.back());
        waiting.pop_back();
        std::vector<Folder> found;
        read_live_folder(folder, sink, found);
        folders_.push_back(std::move(folder));
        // Last first onto the stack, so that folders come in the order of their slots.
        std::move(found.rbegin(), found.rend(), std::back_inserter(waiting));
        ++done;
        progress.at(done, done + waiting.size());
    }
}

void Reader::read_live_folder(const Folder& folder, EntrySink& sink, std::vector<Folder>& found) {
    const FolderBytes bytes(source_, folder.ranges);
    const auto listing = parse_folder(bytes);
    if (listing.unreadable_slots) {
        sink.diagnostic(fmt::format(
            "The folder at offset {} has {} slots that cannot be read; entries in them are unknown.",
            folder.ranges.front().offset, listing.unreadable_slots));
    }
    hints_.push_back(folder.ranges.front().offset);
    for (const auto& slots : listing.entries) {
        const auto start = start_cluster(slots.entry, geometry_.width);
        if (slots.erased && geometry_.holds(start)) hints_.push_back(source_range({start, 1}).offset);
        if (slots.erased && is_plausible(slots.entry, true)) starts_.learn(slots.entry);
        if (!slots.erased && !slots.after_end && !(slots.entry.DIR_Attr & ATTR_VOLUME_ID))
            read_live_entry(slots, folder, sink, found);
    }
}

Entry Reader::basic_entry(const Slots& slots, const Folder& folder) const {
    const auto& raw = slots.entry;
    Entry e;
    e.key = {slots.source_offset, 0};
    e.parent = folder.key;
    e.is_dir = raw.DIR_Attr & ATTR_DIRECTORY;
    e.attributes =
        raw.DIR_Attr & (attribute::read_only | attribute::hidden | attribute::system | attribute::archive);
    e.size = e.is_dir ? 0 : raw.DIR_FileSize.value();
    e.created = dos_time(raw.DIR_CrtDate.value(), raw.DIR_CrtTime.value(), raw.DIR_CrtTimeTenth,
                         options_.zone_minutes);
    e.modified = dos_time(raw.DIR_WrtDate.value(), raw.DIR_WrtTime.value(), 0, options_.zone_minutes);
    e.accessed = dos_time(raw.DIR_LstAccDate.value(), 0, 0, options_.zone_minutes);
    return e;
}

void Reader::read_live_entry(const Slots& slots, const Folder& folder, EntrySink& sink,
                             std::vector<Folder>& found) {
    auto e = basic_entry(slots, folder);
    name_entry(e, slots, nullptr);
    if (e.name.empty() || !is_plausible(slots.entry, false)) {
        e.evidence.push_back({Fact::bad_metadata, 0, 0, "its folder slot has impossible values"});
    }
    const auto start = start_cluster(slots.entry, geometry_.width);
    const auto wanted = e.is_dir ? 0 : clusters_for(e.size);
    Chain chain;
    if (geometry_.holds(start)) {
        const auto most = e.is_dir ? most_folder_clusters() : std::uint64_t{geometry_.cluster_count};
        const bool budget_left = crossings_ < 16ull * geometry_.cluster_count;
        chain = table_.follow(start, wanted, {most, e.is_dir || !budget_left ? 1 : wanted}, taken_);
        if (chain.crosses) crossings_ += chain.clusters();
    } else if (wanted || e.is_dir) {
        e.evidence.push_back({start ? Fact::start_outside : Fact::no_start, start, 0, {}});
        chain.end = ChainEnd::outside;
    }
    const bool loops_back = e.is_dir && (chain.crosses || chain.runs.empty());
    if (loops_back && geometry_.holds(start)) {
        sink.diagnostic(
            fmt::format("The folder {} (slot at offset {}) starts in clusters that another folder or file "
                        "holds; it is not followed.",
                        e.name, slots.source_offset));
    }
    if (e.is_dir) {
        e.layout = chain.runs.empty() ? Layout::none : Layout::known;
    } else {
        lay_out_live(e, chain, wanted);
    }
    e.claims = source_ranges(chain.runs);
    claim_live(chain.runs, ticks_of(e.created), e.is_dir);
    if (!e.is_dir) {
        ++live_count_;
        empty_live_ += e.size == 0;
    } else if (!loops_back) {
        folder_starts_.emplace(start, e.key);
    }
    if (!e.is_dir && wanted > 1 && chain.end == ChainEnd::end_mark)
        habit_.count(wanted, chain.runs.size() == 1);
    if (!chain.runs.empty()) {
        starts_.add_neighbour(written(e), start);
        starts_.learn_live(start);
        live_files_.push_back({start, static_cast<std::uint32_t>(e.size), ticks_of(e.modified),
                               ticks_of(e.created), e.key, e.is_dir});
    }
    if (e.is_dir && !loops_back) found.push_back({e.key, e.claims, true});
    sink.entry(std::move(e));
}

void Reader::claim_live(const std::vector<Run>& runs, std::int64_t created, bool is_dir) {
    for (const auto& r : runs) {
        for (Cluster c = r.first; c < r.first + r.count; ++c) taken_.add(c);
        // A folder's clusters come one at a time over years; its age says nothing of the later ones.
        live_extents_.push_back({r, is_dir ? 0 : created});
    }
}

void Reader::lay_out_live(Entry& e, const Chain& chain, std::uint64_t wanted) const {
    e.layout = wanted == 0 || !chain.runs.empty() ? Layout::known : Layout::none;
    e.pieces = pieces_in(source_ranges(chain.runs), e.size, true);
    if (wanted == 0) return;
    const auto have = chain.clusters();
    if (chain.second_copy) e.evidence.push_back({Fact::chain_from_second_fat, 0, 0, {}});
    if (chain.crosses) e.evidence.push_back({Fact::chain_crosses, 0, 0, {}});
    if (have > wanted) e.evidence.push_back({Fact::chain_too_long, have * geometry_.cluster_size, 0, {}});
    if (chain.end == ChainEnd::outside && have)
        e.evidence.push_back({Fact::chain_leaves_volume, have, 0, {}});
    if (chain.end == ChainEnd::loop)
        e.evidence.push_back({Fact::bad_metadata, 0, 0, "its chain runs in a circle"});
    if (have >= wanted) {
        e.evidence.push_back({Fact::live_chain, 0, 0, {}});
        return;
    }
    e.evidence.push_back({Fact::chain_too_short, have * geometry_.cluster_size, 0, {}});
    if (chain.end != ChainEnd::unreadable || chain.runs.empty()) return;
    // The books are unreadable there, so the rest may well follow on: clusters that nobody else holds.
    auto& last = chain.runs.back();
    Run rest{last.first + last.count, 0};
    while (have + rest.count < wanted && geometry_.holds(rest.first + rest.count) &&
           !taken_.has(rest.first + rest.count))
        ++rest.count;
    if (rest.count == 0) return;
    auto ranges = source_ranges(chain.runs);
    ranges.push_back(source_range(rest));
    e.pieces = pieces_in(ranges, e.size, true);
    const auto known = have * geometry_.cluster_size;
    for (auto& p : e.pieces) p.known = p.offset < known;
    e.layout = Layout::assumed;
}

void Reader::report_unowned(EntrySink& sink) {
    std::vector<Run> runs;
    for (Cluster c = 2; c < geometry_.cluster_count + 2; ++c) {
        if (table_.in_use(c) && !taken_.has(c)) append_cluster(runs, c);
    }
    for (const auto& r : source_ranges(runs)) sink.in_use(r);
}

void Reader::name_entry(Entry& e, const Slots& slots, const Listing* siblings) const {
    const auto shown = short_name(slots.entry, page_, slots.erased, 0);
    if (!slots.long_name.empty()) {
        e.name = utf8_from_utf16(slots.long_name);
        if (slots.long_name_cut) {
            e.name_certainty = NameCertainty::fragment;
            if (const auto ext = shown.rfind('.'); ext != std::string::npos) e.name += shown.substr(ext);
            e.evidence.push_back({Fact::name_fragment, 0, 0, shown});
        } else if (slots.erased) {
            if (slots.first_letter_agrees) {
                e.evidence.push_back({Fact::first_letter_solved, slots.first_letter, 0, shown});
            } else {
                e.evidence.push_back({Fact::long_name_checksum, 0, 0, shown});
            }
        }
        return;
    }
    e.name = shown;
    if (!slots.erased) return;
    if (const auto argued = argue_first_letter(slots, siblings, e)) {
        e.name = short_name(slots.entry, page_, true, argued->letter);
        e.evidence.push_back({Fact::first_letter_argued, argued->letter, 0, argued->why});
        return;
    }
    e.name_certainty = NameCertainty::first_letter_unknown;
    e.evidence.push_back({Fact::first_letter_lost, 0, 0, {}});
}

}  // namespace undershelf::fat
