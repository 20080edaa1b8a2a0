#pragma once
// How exFAT volumes are settled, for its two files alone: settle_grids.cpp has which grids may have been,
// settle.cpp what bears them out and what else is left.

#include <unordered_set>

#include "clusters/grid_evidence.hpp"
#include "clusters/grid_vote.hpp"
#include "exfat/former.hpp"
#include "exfat/traces.hpp"

namespace undershelf::exfat {

/// Bytes of the longest entry set.
constexpr std::size_t longest_set = 19 * 32;

struct Candidate {
    FormerVolume former;
    std::string found_by;
    std::vector<std::string> votes;
    clusters::GridEvidence evidence;
    VolumeState state = VolumeState::former;
    bool argued = false;  ///< only what stands where its sets say speaks for it
};

class Settler {
  public:
    Settler(const Settling& s, const Progress& progress) : s_(s), progress_(progress) { gather(); }

    std::vector<Recognition> run();
    std::optional<Candidate> told(const VolumeHint& told);
    Recognition recognition(const Candidate& c) const;
    std::optional<Recognition> without_grid() const;

  private:
    void gather();
    std::vector<Candidate> candidates() const;
    void add_present_grids(std::vector<Candidate>& out) const;
    void add_heads(std::vector<Candidate>& out) const;
    void add_roots(std::vector<Candidate>& out) const;
    void add_votes(std::vector<Candidate>& out) const;
    std::vector<clusters::GridVote> votes(std::uint32_t largest) const;
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
    void weigh(Candidate& c) const;
    bool stands_out(const Candidate& c) const;
    bool present_that_explains(const Candidate& c) const;
    Candidate* best_of(std::vector<Candidate>& all) const;
    void weigh_set(const clusters::Grid& grid, const SetTrace& set, Candidate& c) const;
    void complete(Candidate& c) const;
    void see_whether_present(Candidate& c) const;
    void take(const Candidate& c);

    const Settling& s_;
    const Progress& progress_;
    std::vector<SetTrace> sets_;  ///< ascending
    std::vector<RootTrace> roots_;
    std::vector<std::uint64_t> up_cases_, fat_heads_;
    std::vector<clusters::OldFat> tables_;
    std::unordered_set<std::uint64_t> starts_;  ///< sets at the beginning of a sector
};

}  // namespace undershelf::exfat
