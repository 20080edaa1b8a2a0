#pragma once
// Does a kind of file lie otherwise than the rest of its volume? On a full card photos may lie in one run
// each and sounds, all of them, in pieces, whatever their size.

#include <map>
#include <string>

#include "rating/claimant.hpp"

namespace undershelf {

class KindHabits {
  public:
    /// What has its layout recorded or proven, and more than one cluster.
    void add(const Claimant& claimant, const VolumeTraits& traits);
    /// A lost file whose guess of one run contests another one's: it lay in pieces, most likely.
    void add_contested(int volume, const std::string& ext);

    struct Counts {
        std::uint64_t one_run = 0, files = 0;
    };
    Counts of(int volume, const std::string& ext) const;
    /// P(one run) of a file of an extension, where what is known of the volume says `usual`: either the kind
    /// is like the others, or it has a habit of its own, which its files tell.
    double one_run(int volume, const std::string& ext, double usual) const;

  private:
    void count(int volume, const std::string& ext, bool one_run);

    struct Volume {
        Counts all;
        std::map<std::string, Counts> kinds;
    };
    std::map<int, Volume> volumes_;
};

}  // namespace undershelf
