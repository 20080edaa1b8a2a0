#pragma once
// From traces to volumes: what a sweep found is settled by each file system, and every former volume is read
// like any other. It can be done again whenever more is known; numbers and ids stay.

#include "base/progress.hpp"
#include "scan/hints.hpp"
#include "shelf/writer.hpp"
#include "volume/file_system.hpp"

namespace undershelf {

class VolumeSettler {
  public:
    VolumeSettler(const Source& source, ShelfWriter& shelf, const ReadOptions& options,
                  const std::vector<std::uint64_t>& heads)
        : source_(source), shelf_(shelf), options_(options), heads_(heads) {}

    /// Volumes without a head over which nothing was formatted.
    std::vector<Recognition> present_ones(const Progress& progress);
    /// Places of folders that a present volume has lost track of, and does not tell of yet.
    std::vector<std::uint64_t> lost_folders(const Volume& volume);
    /// Settles former volumes and reads them. Ends early once `progress` says so; nothing is lost then, and
    /// it can be done again.
    void former_ones(const Hints& hints, Progress& progress);

  private:
    struct Known;
    Known look() const;
    std::vector<Recognition> settle(const Known& known, const Progress& progress) const;
    Volume volume_of(const VolumeHint& told, const Known& known) const;
    void read(const Volume& volume, const Known& known, Progress& progress);
    void merge(const std::vector<Volume>& former);

    const Source& source_;
    ShelfWriter& shelf_;
    ReadOptions options_;
    const std::vector<std::uint64_t>& heads_;
};

}  // namespace undershelf
