#pragma once
// What happened to a drive, as far as its entries tell: sentences for its owner.

#include <map>
#include <string>
#include <vector>

#include "answers/facts.hpp"
#include "shelf/shelf.hpp"

namespace undershelf {

class History {
  public:
    explicit History(const std::vector<Volume>& volumes) : volumes_(volumes) {}
    void look_at(const ShelfEntry& entry);
    std::vector<std::string> sentences(const Facts& facts) const;

  private:
    struct OfVolume {
        MaybeTime newest;  ///< date of any entry
        MaybeTime oldest;  ///< creation of a live entry
        std::uint64_t live = 0, deleted = 0;
        MaybeTime first_deleted, last_deleted;
    };
    std::string when_formatted(const Volume& former, const Volume& present) const;

    const std::vector<Volume>& volumes_;
    std::map<int, OfVolume> all_;
};

}  // namespace undershelf
