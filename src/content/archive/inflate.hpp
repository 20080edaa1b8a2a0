#pragma once
// Deflate streams (RFC 1951) inside contents, by zlib, read without being kept.

#include <functional>

#include "content/content.hpp"
#include "content/format.hpp"

namespace undershelf::content {

enum class Wrapping : std::uint8_t { raw, zlib, gzip };
enum class InflateEnd : std::uint8_t {
    whole,      ///< to its end mark, sums included
    cut,        ///< the content ended before
    broken,     ///< the data contradict themselves
    wrong_sum,  ///< they do not, but their sum does
    too_much,   ///< more came out than was allowed
};

struct Inflated {
    InflateEnd end = InflateEnd::whole;
    std::uint64_t input_end = 0;  ///< offset in the content up to which it was read
    std::uint64_t output = 0;     ///< bytes
};

/// Inflates from the cursor, which goes on after the stream, or to where it went wrong. `take` gets what
/// comes out, piece by piece; may be empty. `bound` counts what came out.
Inflated inflate_at(Cursor& at, Wrapping wrapping, OutputBound& bound,
                    const std::function<void(Bytes)>& take);

}  // namespace undershelf::content
