#pragma once
// How many of a volume's contents without names hold to their end: where most do, files lie in one run there,
// and what only says where it ends most likely does. Where many break off, files are in pieces.

#include <algorithm>
#include <map>

namespace undershelf {

class WholeFinds {
  public:
    /// A content that could be checked to its end; `whole`: it holds there.
    void add(int volume, bool whole) {
        auto& v = volumes_[volume];
        ++v.files;
        v.whole += whole;
    }
    /// The share that is whole, of one more.
    double share(int volume) const {
        const auto it = volumes_.find(volume);
        const auto v = it == volumes_.end() ? Counts() : it->second;
        return std::min(most, (v.whole + usual * weight) / (v.files + weight));
    }

  private:
    /// Of files in general, which counts for two; and the most that any number of them shows.
    static constexpr double usual = 0.8, weight = 2, most = 0.96;
    struct Counts {
        double files = 0, whole = 0;
    };
    std::map<int, Counts> volumes_;
};

}  // namespace undershelf
