#pragma once
// Telling by a glance what is no start of any content: a sweep looks at millions of places, nearly none of
// which is one, and asks the readers about the rest only.

#include "base/bytes.hpp"

namespace undershelf {

enum class Glance : std::uint8_t {
    nothing,  ///< no format begins so
    text,     ///< a text may begin so, and nothing else
    mark,     ///< the mark of a format may be there
};

/// Of the bytes at a place, 512 at least unless the content is shorter. Says `nothing` only where no reader
/// would recognise what begins there.
Glance glance(Bytes first);

/// Do these bytes look like text, as far as single ones show? For where a text goes on.
bool may_be_text(Bytes bytes);

}  // namespace undershelf
