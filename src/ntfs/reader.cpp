#include "ntfs/reader.hpp"

#include <fmt/format.h>
#include <tbb/enumerable_thread_specific.h>

#include <algorithm>
#include <cstring>

#include "base/batches.hpp"
#include "base/text.hpp"

namespace undershelf::ntfs {

namespace {
constexpr std::uint64_t batch_size = 1024;  // records
}  // namespace

Reader::Reader(const Source& source, const Volume& volume, const Geometry& geometry, Mft&& mft,
               std::vector<std::uint64_t> blocks)
    : source_(source),
      volume_(volume),
      geometry_(geometry),
      table_(source, volume, geometry, std::move(mft)),
      indexes_(source, volume_, geometry_, table_),
      taken_(std::min(geometry.clusters, source.size() / geometry.cluster_size + 1)),
      blocks_(std::move(blocks)) {}

void Reader::read(EntrySink& sink, Progress& progress) {
    if (table_.mft().records() == 0 && volume_.geometry.empty()) {
        sink.diagnostic(
            fmt::format("The $MFT of the NTFS volume at offset {} can be read neither where the boot sector "
                        "says nor by its mirror. What folder indexes name is listed.",
                        volume_.offset));
    }
    if (table_.mft().from_mirror())
        sink.diagnostic("Record 0 of the $MFT is damaged; its run list was taken from $MFTMirr.");
    table_.look(sink, progress);
    read_records(sink, progress);
    if (!progress.stopped()) report_unowned(sink);
}

/// Records are parsed by several threads, and handed over in the order of their numbers.
void Reader::read_records(EntrySink& sink, Progress& progress) {
    progress.stage("reading file records");
    const auto& glances = table_.glances();
    nameless_ = BitSet(glances.size());
    tbb::enumerable_thread_specific<RecordWindows> windows_of_thread;
    struct Batch {
        std::vector<Draft> drafts;
        std::vector<std::uint64_t> nameless;
    };
    const auto parse = [&](std::uint64_t from, std::uint64_t to) {
        auto& windows = windows_of_thread.local();
        Batch batch;
        batch.drafts.reserve(static_cast<std::size_t>(to - from) + 16);
        for (auto n = from; n < to; ++n) {
            if (n == MFT_REC_ROOT || !glances[n].is_record || !glances[n].is_base) continue;
            if (!table_.compose(n, windows, batch.drafts)) batch.nameless.push_back(n);
        }
        return batch;
    };
    in_ordered_batches<Batch>(
        glances.size(), batch_size, [&] { return progress.stopped(); }, parse,
        [&](Batch batch, std::uint64_t to) {
            for (auto& d : batch.drafts) emit(std::move(d), sink);
            for (const auto n : batch.nameless) nameless_.add(n);
            progress.at(to, glances.size());
        });
    RecordWindows windows;
    for (const auto& r : table_.file_of(MFT_REC_ROOT, windows).index_runs) {
        if (!r.sparse)
            sink.in_use({volume_.offset + r.lcn * geometry_.cluster_size, r.count * geometry_.cluster_size});
    }
}

bool Reader::is_system(const Draft& d) {
    const bool system = d.number < MFT_REC_FREE || d.parent_record == MFT_REC_EXTEND ||
                        system_folders_.count(d.parent_record);
    if (system && d.entry.is_dir) system_folders_.insert(d.number);
    return system;
}

void Reader::emit(Draft&& d, EntrySink& sink) {
    d.entry.system = is_system(d);
    told_.add_recorded(d.print);
    if (d.stale_parent && d.entry.created) {
        const auto [it, fresh] = stale_folders_.emplace(d.entry.parent, d.entry.created->ticks);
        if (!fresh) it->second = std::min(it->second, d.entry.created->ticks);
    }
    if (d.entry.origin == Origin::live) claim(d.entry.claims);
    sink.entry(std::move(d.entry));
}

void Reader::claim(const std::vector<ByteRange>& ranges) {
    for (const auto& r : ranges) {
        const auto c = (r.offset - volume_.offset) / geometry_.cluster_size;
        taken_.add(c, c + r.length / geometry_.cluster_size);
    }
}

/// Clusters that $Bitmap has in use and no live file does are somebody's. All that no live file has are kept
/// for the search for index blocks, those in use first: a folder's whose record is lost are among them.
void Reader::report_unowned(EntrySink& sink) {
    std::vector<ByteRange> unowned_ones;
    if (MFT_REC_BITMAP < table_.glances().size()) unowned_ones = read_bitmap(sink);
    auto free = std::move(free_);
    free_ = std::move(unowned_ones);
    free_.insert(free_.end(), free.begin(), free.end());
    // Of a former volume the sweep has found the blocks.
    if (!free_.empty() || volume_.state == VolumeState::former) return;
    // Without a bitmap nothing is known to be free.
    for (std::uint64_t c = 0; c < taken_.end();) {
        const auto from = taken_.next_out(c), to = taken_.next_in(from, taken_.end());
        if (to > from)
            free_.push_back(
                {volume_.offset + from * geometry_.cluster_size, (to - from) * geometry_.cluster_size});
        c = std::max(to, c + 1);
    }
}

/// Tells what is in use by nobody, and returns it; what is free goes to free_.
std::vector<ByteRange> Reader::read_bitmap(EntrySink& sink) {
    std::vector<ByteRange> in_use;
    RecordWindows windows;
    const auto info = table_.file_of(MFT_REC_BITMAP, windows);
    std::uint64_t cluster = 0;
    ByteRange unowned, free;
    const auto close = [](ByteRange& open, const auto& hand_over) {
        if (!open.empty()) hand_over(open);
        open = {};
    };
    const auto report = [&](const ByteRange& range) {
        sink.in_use(range);
        in_use.push_back(range);
    };
    const auto keep = [&](const ByteRange& range) { free_.push_back(range); };
    const auto extend = [&](ByteRange& open) {
        if (open.empty()) open.offset = volume_.offset + cluster * geometry_.cluster_size;
        open.length += geometry_.cluster_size;
    };
    const auto take_bits = [&](const ByteVector& bits) {
        for (std::size_t b = 0; b < bits.size() * 8 && cluster < taken_.end(); ++b, ++cluster) {
            const bool used = bits[b / 8] >> b % 8 & 1;
            if (used && !taken_.has(cluster)) {
                extend(unowned);
            } else {
                close(unowned, report);
            }
            if (!used && !taken_.has(cluster)) {
                extend(free);
            } else {
                close(free, keep);
            }
        }
    };
    for (const auto& s : info.streams) {
        if (!s.name.empty()) continue;
        for (const auto& run : s.runs) {
            for (std::uint64_t i = 0; i < run.count && cluster < taken_.end(); ++i) {
                take_bits(run.sparse
                              ? ByteVector(geometry_.cluster_size)
                              : source_.read_vector({volume_.offset + (run.lcn + i) * geometry_.cluster_size,
                                                     geometry_.cluster_size}));
            }
        }
    }
    close(unowned, report);
    close(free, keep);
    return in_use;
}

}  // namespace undershelf::ntfs
