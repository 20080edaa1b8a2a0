#pragma once
// Matroska's tracks, and the blocks in which their frames are (RFC 9559, sections 5.1.4 and 10).

#include <map>
#include <optional>

#include "content/media/ebml.hpp"
#include "content/media/media_units.hpp"

namespace undershelf::content {

class MatroskaTracks {
  public:
    /// From the body of a `Tracks` element.
    explicit MatroskaTracks(Bytes body);

    /// Does a block hold whose body is at `offset`: is its track one of these, do its frames fill it, and
    /// do they hold as far as their codec is known?
    bool block_holds(Content& content, std::uint64_t offset, std::uint64_t size, Density& density);

  private:
    void read_entry(Bytes entry);

    std::map<std::uint64_t, std::unique_ptr<UnitCheck>>
        tracks_;  ///< by number; null where the codec is unknown
};

/// The sizes of the frames in a block's body, which begins after `head` bytes of number, time and flags.
/// `start` is what the body begins with. Nothing when they do not fit.
struct Lacing {
    std::size_t head = 0;  ///< bytes before the first frame
    std::vector<std::uint64_t> frames;
};
std::optional<Lacing> lacing_of(Bytes start, std::uint64_t size);

}  // namespace undershelf::content
