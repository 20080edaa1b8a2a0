#pragma once
// What a technician knows of volumes better than any vote.

#include "shelf/writer.hpp"
#include "volume/settling.hpp"

namespace undershelf {

/// What a technician has said of volumes, kept in the shelf.
class Hints {
  public:
    explicit Hints(const ShelfWriter& shelf);

    /// A volume is where somebody says; `--volume-at`.
    void add(const VolumeHint& told);
    /// A former volume is none; `--without-volume`. Throws Error(usage) when there is no such volume.
    void leave_out(const ShelfWriter& shelf, int number);
    void save(ShelfWriter& shelf) const;

    const std::vector<VolumeHint>& told() const { return told_; }
    bool leaves_out(const Volume& volume) const;

  private:
    std::vector<VolumeHint> told_;
    std::vector<ScanState::Identity> left_out_;
};

}  // namespace undershelf
