#include "clusters/reader.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <iterator>

namespace undershelf::clusters {

namespace {
/// Live files in several runs that are held against a guess, and runs of theirs: enough to know a habit by.
constexpr std::size_t most_fragmented = 16384, most_fragmented_runs = 1 << 20;
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

Reader::Reader(const Source& source, const Volume& volume, const Grid& grid, std::uint64_t known,
               std::optional<FormerFolders> former)
    : source_(source),
      volume_(volume),
      grid_(grid),
      taken_(std::min<std::uint64_t>(known, grid.count)),
      former_(std::move(former)),
      known_(std::min<std::uint64_t>(known, grid.count)) {}

void Reader::expect_folders(const std::vector<std::uint64_t>& places) {
    for (const auto place : places) {
        if (place >= grid_.data_offset && grid_.holds(grid_.cluster_at(place)))
            found_.push_back(grid_.cluster_at(place));
    }
}

void Reader::read(EntrySink& sink, Progress& progress) {
    budget_ = &sink.budget();
    progress_ = &progress;
    if (is_former()) {
        read_former_tree(sink, progress);
        return;
    }
    sink.in_use({volume_.offset, grid_.data_offset - volume_.offset});
    read_live_tree(sink, progress);
    if (progress.stopped()) return;
    report_unowned(sink);
    live_is_read();
    progress.stage("looking for lost folders");
    begin_lost(LostLayout(grid_, busy(), std::move(live_extents_)), std::nullopt,
               LostFolders(source_, grid_, static_cast<const FolderSigns&>(*this),
                           LostFolders::Search{busy(), found_, near_, search_bytes_}, progress));
    count_fragmented();
    for (const auto start : lost_starts_) lost_->folders.name(start);
    // Of a large volume a part was seen: where its folders go on is looked at as they are met.
    if (!lost_->folders.has_seen_all()) lost_->busy = busy();
    near_ = {};
    progress.stage("reading deleted entries");
    read_lost_from(0, false, sink, progress);
    read_ownerless(sink, progress);
}

/// Of a former volume nothing is live: what is left of its root is read like a folder that was deleted, then
/// every folder that is somewhere, each after those above it.
void Reader::read_former_tree(EntrySink& sink, Progress& progress) {
    progress.stage("reading folders of a former volume");
    live_is_read();
    // What was deleted had clusters that were free at the end, what was not had others.
    auto use = use_then();
    begin_lost(
        LostLayout(grid_, std::move(use.used), {}), LostLayout(grid_, std::move(use.free), {}),
        LostFolders(source_, grid_, static_cast<const FolderSigns&>(*this), former_->folders, progress));
    Folder first;
    first.key = root_key;
    first.live = false;
    first.ranges = former_->root_places;
    for (const auto& r : folder_ranges(former_->root)) first.ranges.push_back(r);
    for (const auto& r : former_->root) {
        folder_starts_.emplace(r.first, root_key);
        lost_->followed.add(r);
    }
    lost_->folders.take(former_->root);
    if (!former_->root.empty()) {
        // It is a folder of many entries; where one of them goes on, the root does.
        auto more = lost_->folders.follow(former_->root.back().end() - 1,
                                          bound::folder_bytes / grid_.cluster_size, LostFolders::How::surely);
        if (--more.front().count == 0) {
            more.erase(more.begin());
        } else {
            ++more.front().first;
        }
        for (const auto& r : more) lost_->followed.add(r);
        for (const auto& r : folder_ranges(more)) first.ranges.push_back(r);
    }
    if (!first.ranges.empty()) folders_.push_back(std::move(first));
    read_lost_from(0, false, sink, progress);
    read_ownerless(sink, progress);
}

void Reader::begin_lost(LostLayout layout, std::optional<LostLayout> kept, LostFolders folders) {
    lost_ = std::make_unique<LostPhase>(source_, grid_, ClusterSet(known_), std::move(layout),
                                        std::move(kept), std::move(folders));
}

void Reader::remnants(EntrySink& sink, Progress& progress) {
    progress.stage("reading remnants");
    read_lost_from(0, true, sink, progress);
    read_slack(sink, progress);
    step_over_lost(sink, progress);
}

void Reader::read_live_tree(EntrySink& sink, Progress& progress) {
    progress.stage("reading folders");
    std::vector<Run> runs;
    Folder first;
    first.key = root_key;
    first.ranges = root(runs);
    if (!runs.empty()) first.ranges = folder_ranges(runs);
    hold(runs, 0);
    for (const auto& r : grid_.ranges(runs)) sink.in_use(r);
    std::vector<Folder> stack{std::move(first)};
    std::uint64_t done = 0;
    while (!stack.empty() && !progress.stopped()) {
        auto folder = std::move(stack.back());
        stack.pop_back();
        if (folder.ranges.empty()) continue;
        near_.push_back(folder.ranges.front().offset);
        FolderBytes bytes(source_, folder.ranges);
        const auto noted = read_live(folder, bytes, sink);
        if (noted.unreadable_slots) {
            sink.diagnostic(fmt::format(
                "The folder at offset {} has {} slots that cannot be read; entries in them are unknown.",
                folder.ranges.front().offset, noted.unreadable_slots));
        }
        keep(folder, std::move(bytes), noted);
        // Last first onto the stack, so that folders come in the order of their slots.
        std::move(waiting_.rbegin(), waiting_.rend(), std::back_inserter(stack));
        waiting_.clear();
        ++done;
        progress.at(done, done + stack.size());
    }
}

/// A folder is read once: its bytes stay for the passes to come where these have something to find in it.
void Reader::keep(Folder& folder, FolderBytes&& bytes, const Noted& noted) {
    if (!noted.lost && !noted.leftovers) return;
    folder.lost = noted.lost;
    folder.leftovers = noted.leftovers;
    const auto size = bytes.slots() * FolderBytes::slot_size;
    if (kept_ + size <= bound::kept_bytes) {
        kept_ += size;
        folder.bytes = std::make_shared<const FolderBytes>(std::move(bytes));
    }
    folders_.push_back(std::move(folder));
}

void Reader::hold(const std::vector<Run>& runs, std::int64_t created) {
    for (const auto& r : runs) {
        taken_.add(r);
        live_extents_.push_back({r, created});
    }
}

void Reader::found_folder(const Entry& entry, Cluster start, const std::vector<Run>& runs) {
    folder_starts_.emplace(start, entry.key);
    Folder folder;
    folder.key = entry.key;
    folder.ranges = folder_ranges(runs);
    waiting_.push_back(std::move(folder));
}

std::vector<ByteRange> Reader::folder_ranges(const std::vector<Run>& runs) const {
    std::vector<ByteRange> out;
    auto left = bound::folder_bytes;
    for (auto range : grid_.ranges(runs)) {
        if (range.offset >= source_.size()) continue;
        range.length = std::min({range.length, source_.size() - range.offset, left});
        // Slots that the source's end cuts off are none.
        range.length -= range.length % FolderBytes::slot_size;
        left -= range.length;
        if (!range.empty()) out.push_back(range);
    }
    return out;
}

void Reader::count_live(const Entry& e, const std::vector<Run>& runs, bool whole) {
    ++live_count_;
    empty_live_ += e.size == 0;
    const auto clusters = grid_.clusters_for(e.size);
    if (clusters <= 1 || !whole || runs.empty()) return;
    if (runs.size() == 1) {
        habit_.count(clusters, true);
    } else if (fragmented_.size() < most_fragmented &&
               fragmented_runs_ + runs.size() <= most_fragmented_runs) {
        fragmented_.push_back({runs, written(e)});
        fragmented_runs_ += runs.size();
    }
}

/// Lost files in several runs can only be guessed; how well that goes, live ones show.
void Reader::count_fragmented() {
    for (const auto& f : fragmented_) {
        const auto breaks = lost_->layout.breaks_of(f.runs, f.written);
        if (breaks == LostLayout::Breaks::causeless) {
            habit_.count(cluster_total(f.runs), false);
        } else {
            ++stepping_;
            stepping_as_guessed_ += breaks == LostLayout::Breaks::as_guessed;
        }
    }
    fragmented_ = {};
}

void Reader::say_folder_crosses(const Entry& entry, std::uint64_t slot, EntrySink& sink) const {
    sink.diagnostic(
        fmt::format("The folder {} (slot at offset {}) starts in clusters that another folder or file "
                    "holds; it is not followed.",
                    entry.name, slot));
}

/// Clusters that the books have in use and no live entry holds are somebody's.
void Reader::report_unowned(EntrySink& sink) const {
    const auto& all = used();
    for (auto c = all.next_in(2); c < std::min(all.end(), grid_.end());) {
        const auto end = std::min(all.next_out(c), grid_.end());
        for (auto from = taken_.next_out(c, end); from < end; from = taken_.next_out(from, end)) {
            const auto to = taken_.next_in(from, end);
            sink.in_use(grid_.range({static_cast<Cluster>(from), static_cast<std::uint32_t>(to - from)}));
            from = to;
        }
        c = all.next_in(end);
    }
}

ClusterSet Reader::busy() const {
    ClusterSet out = used();
    out.add(taken_);
    return out;
}

}  // namespace undershelf::clusters
