#pragma once
// One content read, hashed and written.

#include <functional>
#include <string>
#include <vector>

#include "volume/content_stream.hpp"
#include "writing/output_file.hpp"

namespace undershelf {

struct Copied {
    std::string sha256;
    std::vector<ByteRange> missing;  ///< of the file, ascending
    bool interrupted = false;
};

/// Copies all of `stream`; `wrote(bytes)` is called as it goes and returns false when the work should end.
/// The hash of one chunk of a large file is worked out while the next one is read and written.
Copied copy_content(ContentStream& stream, OutputFile& out, const std::function<bool(std::uint64_t)>& wrote);

}  // namespace undershelf
