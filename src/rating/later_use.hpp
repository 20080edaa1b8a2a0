#pragma once
// How much a volume lived on after a file, out of sight: of the space that is free now, which share may lost
// files of later dates have written to, nobody knows where? The more, the less it means that nobody is known
// to have a file's bytes. Live files, and lost ones whose place is recorded, wrote where they say; whether
// that meets the file is known.

#include <map>
#include <vector>

#include "rating/claimant.hpp"

namespace undershelf {

class LaterUse {
  public:
    explicit LaterUse(const std::map<int, VolumeTraits>& volumes) : traits_(volumes) {}

    void add(const Claimant& claimant);
    /// Once all claimants are known.
    void settle();
    /// 0 to 1: guessed bytes of lost files written after `ticks`, in the space of the volume that is free
    /// now. Guesses that overlap count each; 0 where nothing is known.
    double share(int volume, std::int64_t ticks) const;

  private:
    struct Step {
        std::int64_t ticks;
        std::uint64_t bytes;  ///< once settled: of this and all later ones
    };
    struct Life {
        std::uint64_t live = 0;     ///< bytes
        std::vector<Step> guessed;  ///< by the date they were written
    };
    std::map<int, VolumeTraits> traits_;
    std::map<int, Life> lives_;
};

}  // namespace undershelf
