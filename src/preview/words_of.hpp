#pragma once
// What people read of a content: its text, or what it is made of.

#include <string>

#include "content/format.hpp"
#include "content/reading.hpp"

namespace undershelf {

/// What a text is.
enum class Reads : std::uint8_t {
    nothing,  ///< it has no text and no parts
    text,     ///< of a document, mail, page or table
    parts,    ///< members of an archive, tables of a database, what a program is: a line each
};

/// Gives a content's lines, without their ends, in its own order; blank ones once. `take` says when it has
/// enough. Of what has parts its parts, else its text.
Reads read_lines(ContentReading& reading, Content& content, const Format* format,
                 const std::function<bool(const std::string&)>& take);

}  // namespace undershelf
