#pragma once
// Names that differ in a number alone, as cameras and copies make them.

#include <string_view>

namespace undershelf::clusters {

/// Does a numbered series of names go on with `next`? It does when that is as far from `last` as `last` is
/// from `before_last`, or twice as far: then one name is not among them.
bool series_goes_on(std::string_view before_last, std::string_view last, std::string_view next);

}  // namespace undershelf::clusters
