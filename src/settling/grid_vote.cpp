#include "settling/grid_vote.hpp"

#include <algorithm>

namespace undershelf::settling {

namespace {
constexpr std::uint64_t sector = 512;

/// Keeps the best few.
class Best {
  public:
    explicit Best(std::size_t most) : most_(most + 1) {}
    void add(const GridVote& vote) {
        if (votes_.size() == most_ && vote.votes <= votes_.back().votes) return;
        const auto at = std::upper_bound(votes_.begin(), votes_.end(), vote, better);
        votes_.insert(at, vote);
        if (votes_.size() > most_) votes_.pop_back();
    }
    std::vector<GridVote> take() {
        for (std::size_t i = 0; i + 1 < votes_.size(); ++i) votes_[i].runner_up = votes_[i + 1].votes;
        if (votes_.size() == most_) votes_.pop_back();
        return std::move(votes_);
    }

  private:
    static bool better(const GridVote& a, const GridVote& b) { return a.votes > b.votes; }
    std::size_t most_;
    std::vector<GridVote> votes_;
};
}  // namespace

std::vector<GridVote> vote_for_grids(const std::vector<Sighting>& sightings, std::uint32_t largest_unit,
                                     std::size_t most, std::size_t fewest) {
    Best best(most);
    std::vector<std::uint64_t> starts;
    for (std::uint64_t size = smallest_unit; size <= largest_unit; size *= 2) {
        starts.clear();
        for (const auto& s : sightings) {
            if (s.number > s.place / size) continue;
            const auto start = s.place - s.number * size;
            if (start % sector == 0) starts.push_back(start);
        }
        std::sort(starts.begin(), starts.end());
        for (std::size_t i = 0, end; i < starts.size(); i = end) {
            end = i + 1;
            while (end < starts.size() && starts[end] == starts[i]) ++end;
            if (end - i >= fewest) best.add({starts[i], static_cast<std::uint32_t>(size), end - i, 0});
        }
    }
    return best.take();
}

}  // namespace undershelf::settling
