#pragma once
// What a look at a lost file's bytes tells: first bytes against extension, zeros where none should be, text
// that turns into something else. Reads at most 256 KiB of a file, spread over its length.

#include <optional>
#include <string_view>

#include "content/signature.hpp"
#include "volume/content_stream.hpp"

namespace undershelf {

struct ContentLook {
    FirstBytes first;
    bool zero_start = false;                      ///< the first 512 bytes, or all there are, are zeros
    std::uint64_t zero_bytes = 0;                 ///< in long runs; estimated from samples for big files
    bool zeros_telling = false;                   ///< this kind of file has no such runs
    bool text_throughout = false;                 ///< a text, and every byte looked at is one of a text
    std::uint64_t looked = 0;                     ///< bytes
    std::optional<std::uint64_t> broken_text_at;  ///< a text by its extension: the first byte that is none
};

/// `lost`: ranges of the file known not to be its own; nothing is concluded from their bytes. With fewer than
/// 256 KiB of `most_bytes` left for a file that has more, only its first bytes are looked at.
ContentLook look_at_content(ContentStream& stream, std::string_view ext, const RangeSet& lost,
                            std::uint64_t most_bytes = ~0ull);

}  // namespace undershelf
