#pragma once
// Files that only serve a viewer: nobody misses them, and thousands of them hide what somebody does.

#include "volume/model.hpp"

namespace undershelf {

/// By its name alone: what file managers keep beside the files they show (.DS_Store, Thumbs.db, desktop.ini),
/// and AppleDouble companions (`._NAME`). A photo's sidecar is not counted among them.
bool serves_a_viewer(const Entry& entry);

}  // namespace undershelf
