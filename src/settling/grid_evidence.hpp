#pragma once
// What folders say of a grid: whether that which they name is where the grid has it.

#include <vector>

#include "base/bytes.hpp"
#include "content/signature.hpp"

namespace undershelf::settling {

class GridEvidence {
  public:
    /// A named folder's cluster begins as a folder, or does not.
    void folder(bool begins_well) {
        (begins_well ? agrees_ : contradicts_) += 1;
        folders_ += begins_well;
    }
    /// The first bytes of a named file, held against its extension. A text tells little by being one, and
    /// zeros tell nothing: the space may have been discarded.
    void file(Bytes first, std::string_view ext) {
        if (all_zero(first)) return;
        const auto said = compare_with_extension(first, ext).agreement;
        agrees_ += said == Agreement::agrees;
        contradicts_ += said == Agreement::contradicts;
        weakly_ += said == Agreement::weakly;
    }
    void outside() { ++contradicts_; }

    /// Named folders that begin where they should.
    std::size_t folders() const { return folders_; }
    /// Things that are where they should be, and things that are not.
    std::size_t agrees() const { return agrees_ + weakly_; }
    std::size_t contradicts() const { return contradicts_; }
    std::size_t looked_at() const { return agrees() + contradicts_; }
    /// How much speaks for the grid: of texts four are worth one thing with a beginning of its own.
    double weight() const { return static_cast<double>(agrees_) + static_cast<double>(weakly_) / 4; }
    double share() const {
        return looked_at() ? static_cast<double>(agrees()) / static_cast<double>(looked_at()) : 0;
    }
    /// Chance places would contradict nearly always.
    bool bears_out() const { return weight() >= 2 && weight() > 2 * static_cast<double>(contradicts_); }
    /// Of grids that are borne out: how much each explains, and how well.
    double strength() const { return weight() * share(); }

  private:
    std::size_t agrees_ = 0, weakly_ = 0, contradicts_ = 0, folders_ = 0;
};

/// Of candidates with their `evidence` the one that explains most; of equals the first, since what is more
/// certain comes first. Null where none is borne out.
template <typename Candidate>
Candidate* strongest(std::vector<Candidate>& candidates) {
    Candidate* best = nullptr;
    for (auto& c : candidates) {
        if (c.evidence.bears_out() && (!best || c.evidence.strength() > best->evidence.strength())) best = &c;
    }
    return best;
}

}  // namespace undershelf::settling
