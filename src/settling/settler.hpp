#pragma once
// How file systems settle traces that tell no more than their places: of all geometries that may have been
// the one that explains most is a volume, then of what it leaves the next, until nothing is borne out.

#include <fmt/format.h>

#include <optional>
#include <string>
#include <vector>

#include "base/progress.hpp"
#include "settling/grid_evidence.hpp"
#include "volume/file_system.hpp"

namespace undershelf::settling {

/// A geometry that may have been.
struct Candidate {
    std::string found_by;
    std::vector<std::string> votes;  ///< what speaks for it, in sentences
    GridEvidence evidence;
};

/// What a candidate tells of the volume that it is.
inline void describe(Volume& volume, const Candidate& candidate) {
    volume.found_by = candidate.found_by;
    volume.support = candidate.evidence.share();
    volume.votes = fmt::format("{}", fmt::join(candidate.votes, "\n"));
}

/// `Its`: a Candidate, and the geometry in the terms of its file system.
template <class Its>
class Settler {
  public:
    Settler(const Settling& s, const Progress& progress) : s_(s), progress_(progress) {}
    virtual ~Settler() = default;

    std::vector<Recognition> run() {
        constexpr std::size_t most_volumes = 16;
        std::vector<Recognition> out;
        while (out.size() < most_volumes && anything_left() && !progress_.stopped()) {
            auto best = next();
            if (!best) break;
            complete(*best);
            take(*best);
            out.push_back(recognition(*best));
        }
        if (out.empty() && !progress_.stopped()) {
            if (auto bare = without_geometry()) out.push_back(std::move(*bare));
        }
        return out;
    }

  protected:
    virtual bool anything_left() const = 0;
    /// Which geometries may have been.
    virtual std::vector<Its> candidates() = 0;
    /// Holds one against what it would explain.
    virtual void weigh(Its& candidate) const = 0;
    /// The one that explains most.
    virtual std::optional<Its> best_of(std::vector<Its>&& all) {
        auto* best = strongest(all);
        return best ? std::optional<Its>(std::move(*best)) : std::nullopt;
    }
    /// Finds what else is left of it.
    virtual void complete(Its& candidate) = 0;
    /// What it explains is left to no other.
    virtual void take(const Its& candidate) = 0;
    virtual Recognition recognition(const Its& candidate) const = 0;
    /// What no geometry explains: names without contents.
    virtual std::optional<Recognition> without_geometry() const = 0;

    const Settling& s_;
    const Progress& progress_;

  private:
    std::optional<Its> next() {
        auto all = candidates();
        for (auto& c : all) {
            if (progress_.stopped()) break;
            weigh(c);
        }
        return best_of(std::move(all));
    }
};

}  // namespace undershelf::settling
