#pragma once
// From places where contents may begin to contents: each is measured, by all cores, and those that are
// within what holds are none of their own.

#include <vector>

#include "content/formats.hpp"
#include "unnamed/measure.hpp"
#include "unnamed/space.hpp"

namespace undershelf {

/// A place in free space, at a step of a grid, where a content may begin.
struct Place {
    std::uint64_t offset = 0;
    const Format* format = nullptr;  ///< as far as the start tells
    bool breaks_a_line = false;      ///< as ContentStart has it
    bool seen = true;                ///< else a start may be hidden there in the text around it
};

/// From starts, wherever they are, to the places of a source where contents without names may begin.
class Places {
  public:
    Places(const FreeSpace& space, const Grids& grids) : space_(space), grids_(grids) {}

    void add(const Place& start);
    /// Ascending, each once.
    std::vector<Place> take();

  private:
    const FreeSpace& space_;
    const Grids& grids_;
    std::vector<Place> seen_;      ///< where a start was seen
    std::vector<Place> possible_;  ///< where one may be hidden in the text around it
};

/// Which contents are wanted.
using WantedFormat = std::function<bool(const Format&)>;

class Gathering {
  public:
    /// `places` ascending. Keeps references.
    Gathering(const Source& source, const FreeSpace& space, const Grids& grids,
              const std::vector<Place>& places, WantedFormat wanted, ContentReading& reading)
        : source_(source),
          space_(space),
          grids_(grids),
          places_(places),
          wanted_(std::move(wanted)),
          reading_(reading) {}

    /// Goes through the places from `from` on. `take(Measured&&)` gets the contents in the order of the
    /// source; `reached(offset)` is told up to where all is done: what begins before is with `take`. Ends
    /// early once `progress` says so. Returns how many places were passed over because too much was read
    /// before them of what came to nothing.
    std::uint64_t run(std::uint64_t from, const Progress& progress,
                      const std::function<void(Measured&&)>& take,
                      const std::function<void(std::uint64_t)>& reached) const;

  private:
    bool worth_measuring(std::size_t place) const;
    std::size_t place_from(std::uint64_t offset) const;
    std::optional<Measured> measure_at(std::size_t place, const Progress& progress,
                                       std::uint64_t& read) const;

    const Source& source_;
    const FreeSpace& space_;
    const Grids& grids_;
    const std::vector<Place>& places_;
    WantedFormat wanted_;
    ContentReading& reading_;
};

}  // namespace undershelf
