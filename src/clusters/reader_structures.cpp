// Where a volume's folders and tables are: all that names and layouts are read from. Free space is not
// looked through; a deleted folder is followed from its first cluster on, while what comes after looks like
// a part of it.

#include "clusters/reader.hpp"
#include "volume/admission.hpp"
#include "volume/ignoring_sink.hpp"

namespace undershelf::clusters {

namespace {

class FolderCollector final : public IgnoringSink {
  public:
    FolderCollector(const Volume& volume, std::uint64_t source_size)
        : IgnoringSink(volume, source_size), volume_(volume) {}
    void entry(Entry&& e) override {
        if (!e.is_dir) return;
        admit(e, volume_, budget());
        ranges.insert(ranges.end(), e.claims.begin(), e.claims.end());
    }
    std::vector<ByteRange> ranges;

  private:
    const Volume& volume_;
};

}  // namespace

std::vector<Structure> Reader::structures(Progress& progress) {
    FolderCollector sink(volume_, source_.size());
    budget_ = &sink.budget();
    progress_ = &progress;
    read_live_tree(sink, progress);
    std::vector<Run> runs;
    auto root_ranges = root(runs);
    if (!runs.empty()) root_ranges = folder_ranges(runs);
    sink.ranges.insert(sink.ranges.end(), root_ranges.begin(), root_ranges.end());
    if (!progress.stopped()) {
        live_is_read();
        begin_lost(LostLayout(grid_, busy(), std::move(live_extents_)), std::nullopt,
                   LostFolders(source_, grid_, static_cast<const FolderSigns&>(*this), std::vector<Cluster>(),
                               progress));
        lost_->busy = busy();
        progress.stage("reading deleted entries");
        read_lost_from(0, false, sink, progress);
    }
    auto out = tables();
    out.push_back({"folders", RangeSet(std::move(sink.ranges)).ranges()});
    return out;
}

}  // namespace undershelf::clusters
