#pragma once
// The reader of JPEG pictures, also within other formats.

#include "content/format.hpp"

namespace undershelf::content {

const FormatReader& jpeg();

}  // namespace undershelf::content
