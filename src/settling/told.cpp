#include "settling/told.hpp"

#include <fmt/format.h>

#include "base/error.hpp"

namespace undershelf::settling {

void want_cluster_size(const VolumeHint& told) {
    if (told.cluster_size) return;
    throw Error(
        Trouble::usage,
        fmt::format("Nothing at offset {0} says how large the clusters of {1} {2} volume are. Give it as "
                    "well: --volume-at {0},{2},CLUSTER.",
                    told.offset, told.system.starts_with("exFAT") ? "an" : "a", told.system));
}

void want_data_offset(const VolumeHint& told) {
    throw Error(
        Trouble::usage,
        fmt::format("No two folders agree on where clusters of {1} bytes begin after offset {0}. Give the "
                    "place of the first one as well: --volume-at {0},{2},{1},DATA.",
                    told.offset, *told.cluster_size, told.system));
}

}  // namespace undershelf::settling
