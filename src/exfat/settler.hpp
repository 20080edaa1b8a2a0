#pragma once
// How exFAT volumes are settled, for its two files alone: settle_grids.cpp has which grids may have been,
// settle.cpp what bears them out and what else is left.

#include <unordered_set>

#include "exfat/former.hpp"
#include "exfat/traces.hpp"
#include "settling/grid_vote.hpp"
#include "settling/settler.hpp"

namespace undershelf::exfat {

/// Bytes of the longest entry set.
constexpr std::size_t longest_set = 19 * 32;

struct Candidate : settling::Candidate {
    FormerVolume former;
    VolumeState state = VolumeState::former;
    bool argued = false;  ///< only what is where its sets say speaks for it
};

class Settler final : public settling::Settler<Candidate> {
  public:
    Settler(const Settling& s, const Progress& progress) : settling::Settler<Candidate>(s, progress) {
        gather();
    }

    std::optional<Candidate> told(const VolumeHint& told);
    Recognition recognition(const Candidate& c) const override;

  private:
    bool anything_left() const override { return !sets_.empty(); }
    std::vector<Candidate> candidates() override;
    void weigh(Candidate& c) const override;
    std::optional<Candidate> best_of(std::vector<Candidate>&& all) override;
    void complete(Candidate& c) override;
    void take(const Candidate& c) override;
    std::optional<Recognition> without_geometry() const override;

    void gather();
    void add_present_grids(std::vector<Candidate>& out) const;
    void add_heads(std::vector<Candidate>& out) const;
    void add_roots(std::vector<Candidate>& out) const;
    void add_votes(std::vector<Candidate>& out) const;
    std::vector<settling::GridVote> votes(std::uint32_t largest) const;
    /// A file whose content shows what it is.
    struct Shown {
        SetTrace set;
        std::string ext;
    };
    std::optional<Candidate> slide() const;
    bool all_fit(const std::vector<Shown>& shown, std::uint64_t heap, std::uint32_t size) const;

    std::optional<FormerVolume> grid_at(std::uint64_t heap, std::uint32_t cluster_size,
                                        std::uint64_t clusters) const;
    bool is_its_own(const Candidate& c, const SetTrace& set) const;
    bool stands_out(const Candidate& c) const;
    bool present_that_explains(const Candidate& c) const;
    void weigh_set(const clusters::Grid& grid, const SetTrace& set, Candidate& c) const;
    void see_whether_present(Candidate& c) const;

    std::vector<SetTrace> sets_;  ///< ascending
    std::vector<RootTrace> roots_;
    std::vector<std::uint64_t> up_cases_, fat_heads_;
    std::vector<clusters::OldFat> tables_;
    std::unordered_set<std::uint64_t> starts_;  ///< sets at the beginning of a sector
};

}  // namespace undershelf::exfat
