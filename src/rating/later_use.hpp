#pragma once
// How much a volume lived on after a file, out of sight: of the space that is free now, which share may lost
// files of later dates have written to, nobody knows where? The more, the less it means that nobody is known
// to have a file's bytes. Live files, and lost ones whose place is recorded, wrote where they say; whether
// that meets the file is known.
//
// Where drivers keep a chain for files in several pieces alone, lost ones with a chain went where there was
// no room for them in one piece: into gaps, which are what deleted files had left.

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
    struct Share {
        double of_free = 0;  ///< 0 to 1, of the space that is free now
        double of_gaps = 0;  ///< 0 to 1, of what deleted files left, by those that went into gaps
    };
    /// Guessed bytes of lost files written after `ticks`. Guesses that overlap count each; 0 where nothing is
    /// known.
    Share share(int volume, std::int64_t ticks) const;

  private:
    struct Step {
        std::int64_t ticks;
        std::uint64_t bytes;  ///< once settled: of this and all later ones
    };
    struct Life {
        std::uint64_t live = 0;     ///< bytes
        std::uint64_t gaps = 0;     ///< bytes that deleted files left whose places are recorded
        std::vector<Step> guessed;  ///< by the date they were written
        std::vector<Step> chained;  ///< of these, files that went into gaps
    };
    static std::uint64_t later_than(const std::vector<Step>& steps, std::int64_t ticks);

    std::map<int, VolumeTraits> traits_;
    std::map<int, Life> lives_;
};

}  // namespace undershelf
