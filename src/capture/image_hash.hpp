#pragma once
// The SHA-256 of a whole image, which says that it is what was copied: the blocks that were hashed when they
// were copied are held against their hashes on the way.

#include <string>
#include <vector>

#include "base/progress.hpp"
#include "capture/block_hashes.hpp"

namespace undershelf {

struct ImageHash {
    std::string sha256;              ///< empty when it was interrupted, or the image cannot be read
    std::vector<ByteRange> changed;  ///< blocks that have other bytes now; then there is no hash
};
ImageHash hash_image(const ImageFile& image, const BlockHashes& hashes, Progress& progress);

}  // namespace undershelf
