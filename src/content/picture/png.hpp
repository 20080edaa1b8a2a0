#pragma once
// The reader of PNG pictures, also within other formats.

#include "content/format.hpp"

namespace undershelf::content {

const FormatReader& png();

}  // namespace undershelf::content
