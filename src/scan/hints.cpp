#include "scan/hints.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <sstream>

#include "base/error.hpp"

namespace undershelf {

namespace {
constexpr const char* told_setting = "volumes told";
constexpr const char* left_out_setting = "volumes left out";
}  // namespace

Hints::Hints(const ShelfWriter& shelf) {
    std::istringstream told(shelf.setting(told_setting));
    VolumeHint t;
    std::uint64_t cluster = 0, data = 0;
    bool has_data = false;
    while (told >> t.offset >> t.system >> cluster >> has_data >> data) {
        t.cluster_size = cluster ? std::optional(static_cast<std::uint32_t>(cluster)) : std::nullopt;
        t.data_offset = has_data ? std::optional(data) : std::nullopt;
        told_.push_back(t);
    }
    std::istringstream left_out(shelf.setting(left_out_setting));
    Identity i;
    while (left_out >> i.family >> i.grid_start >> i.cluster_size) left_out_.push_back(i);
}

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
    std::string told, left_out;
    for (const auto& t : told_)
        told += fmt::format("{} {} {} {:d} {}\n", t.offset, t.system, t.cluster_size.value_or(0),
                            t.data_offset.has_value(), t.data_offset.value_or(0));
    for (const auto& i : left_out_)
        left_out += fmt::format("{} {} {}\n", i.family, i.grid_start, i.cluster_size);
    shelf.set_setting(told_setting, told);
    shelf.set_setting(left_out_setting, left_out);
}

bool Hints::leaves_out(const Volume& v) const {
    return std::find(left_out_.begin(), left_out_.end(), Identity{v.family, v.grid_start, v.cluster_size}) !=
           left_out_.end();
}

}  // namespace undershelf
