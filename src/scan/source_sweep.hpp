#pragma once
// One pass over the whole source for what no present volume tells of: heads of volumes, and traces of those
// that were. Everything goes into the shelf with the place it came to, so that an interrupted sweep goes on.

#include <functional>

#include "base/progress.hpp"
#include "layout/lost_heads.hpp"
#include "scan/trace_limits.hpp"
#include "shelf/writer.hpp"

namespace undershelf {

class SourceSweep {
  public:
    /// Takes up what the shelf has of an earlier sweep.
    SourceSweep(const Source& source, ShelfWriter& shelf);

    bool complete() const { return checkpoint_.swept >= source_.size(); }
    /// True when the volumes that the finds speak for are in the shelf already.
    bool settled() const { return checkpoint_.settled; }
    void set_settled();
    /// Are the starts of contents known, over the whole source?
    bool has_starts() const { return starts_to_ >= source_.size(); }
    /// Sweeps from where it was up to the end, or until `progress` has enough. Traces in what live files
    /// hold, and those that present volumes account for themselves, are not kept. With `starts` it looks for
    /// the starts of contents in the same pass, and first where it has been without.
    void run(bool starts, Progress& progress);
    /// Sweeps again what of `ranges` was swept before: only now it can be read. Must be repeated as a whole
    /// when `progress` ended it.
    void run_again(const RangeSet& ranges, Progress& progress);

    const HeadList& heads() const { return heads_; }
    /// Volumes at heads, apart from what is `taken`, numbered from `first_number` in the order of their
    /// places.
    LostVolumes volumes_at_heads(const RangeSet& taken, int first_number, const ReadOptions& options,
                                 const Progress& progress) const;
    /// What was passed over, in sentences.
    std::vector<std::string> remarks() const;

  private:
    struct Finds;
    void take(Finds&& finds);
    void save();
    void take_up(bool heads_alone);
    struct Sought {
        bool traces = true, starts = false;
    };
    void sweep_ranges(const std::vector<ByteRange>& ranges, std::uint64_t from, Sought sought,
                      Progress& progress, const std::function<void(std::uint64_t)>& reached);

    const Source& source_;
    ShelfWriter& shelf_;
    ShelfWriter::Checkpoint checkpoint_;
    std::uint64_t starts_to_ = 0;  ///< up to where starts of contents were looked for
    HeadList heads_;
    TraceLimits limits_;
    RangeSet live_;               ///< held by live files
    std::vector<RangeSet> held_;  ///< by present volumes of each file system, as file_systems() has them
};

}  // namespace undershelf
