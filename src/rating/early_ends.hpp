#pragma once
// Contents that hold, but end before their entries say: a shorter file is there. Where many files of a former
// volume are so, its clusters began elsewhere.

#include <map>
#include <vector>

#include "volume/content_stream.hpp"

namespace undershelf {

/// A content that holds up to `holds_to` of its `size` bytes, where its structure ends. True when zeros
/// follow, up to the end of that sector, as drivers leave them after a file. Not when they go on to the end
/// of a file of whole sectors: so recorders fill up what they write.
bool holds_a_shorter_file(const Source& source, const std::vector<Piece>& pieces, std::uint64_t size,
                          std::uint64_t holds_to);

class EarlyEnds {
  public:
    /// A file of a former volume that was checked and holds.
    void add(int volume, bool early) {
        auto& its = volumes_[volume];
        ++its.files;
        its.early += early;
    }
    struct Answer {
        std::size_t files = 0, early = 0;
        bool many() const { return early >= 3 && 4 * early > files; }
    };
    Answer of(int volume) const {
        const auto it = volumes_.find(volume);
        return it == volumes_.end() ? Answer() : it->second;
    }

  private:
    std::map<int, Answer> volumes_;
};

}  // namespace undershelf
