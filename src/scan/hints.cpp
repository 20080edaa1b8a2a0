#include "scan/hints.hpp"

#include <fmt/format.h>

#include <algorithm>

#include "base/error.hpp"

namespace undershelf {

Hints::Hints(const ShelfWriter& shelf) : told_(shelf.state().told), left_out_(shelf.state().left_out) {}

void Hints::add(const VolumeHint& told) {
    std::erase_if(told_,
                  [&](const VolumeHint& t) { return t.offset == told.offset && t.system == told.system; });
    told_.push_back(told);
}

void Hints::leave_out(const ShelfWriter& shelf, int number) {
    for (const auto& v : shelf.view().volumes()) {
        if (v.number != number) continue;
        if (v.state != VolumeState::former)
            throw Error(Trouble::usage,
                        fmt::format("Volume {} is present, not a former one; it stays. To leave "
                                    "it out of listings, select others with --volume.",
                                    number));
        left_out_.push_back({v.family, v.grid_start, v.cluster_size});
        std::erase_if(told_,
                      [&](const VolumeHint& t) { return t.offset == v.offset && t.system == v.file_system; });
        return;
    }
    throw Error(Trouble::usage, fmt::format("The shelf has no volume {}; `undershelf summary {}` lists them.",
                                            number, shelf.path()));
}

void Hints::save(ShelfWriter& shelf) const {
    shelf.change_state([&](ScanState& state) {
        state.told = told_;
        state.left_out = left_out_;
    });
}

bool Hints::leaves_out(const Volume& v) const {
    return std::find(left_out_.begin(), left_out_.end(),
                     ScanState::Identity{v.family, v.grid_start, v.cluster_size}) != left_out_.end();
}

}  // namespace undershelf
