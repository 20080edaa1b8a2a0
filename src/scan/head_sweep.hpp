#pragma once
// The sweep for heads of volumes, kept in the shelf as it goes, so that it can go on another day.

#include "layout/lost_heads.hpp"
#include "shelf/writer.hpp"

namespace undershelf {

class HeadSweep {
  public:
    /// Where the shelf says that the sweep was left.
    HeadSweep(const Source& source, ShelfWriter& shelf);

    bool complete() const { return swept_ >= source_.size(); }
    /// All that the whole sweep speaks for is in the shelf.
    bool settled() const { return settled_; }
    /// To be called before the volumes of a whole sweep are added: the two are kept together or not at all.
    void set_settled();
    /// Goes on to the end of the source, or until `progress` has enough.
    void run(Progress& progress);
    /// Present volumes outside of `taken` that the heads found so far speak for, numbered from
    /// `first_number`.
    LostVolumes settle(const RangeSet& taken, int first_number, const ReadOptions& options,
                       const Progress& progress) const;

  private:
    void write_state();
    void save();

    const Source& source_;
    ShelfWriter& shelf_;
    std::uint64_t swept_ = 0;  ///< bytes from the start of the source
    HeadList heads_;
    bool settled_ = false;
};

}  // namespace undershelf
