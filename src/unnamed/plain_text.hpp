#pragma once
// What nothing but its characters tells of. Bytes that no text is without say whether it is one; its first
// characters, whether it begins there or has lost its beginning.

#include "base/bytes.hpp"

namespace undershelf {

/// Has it the variety of a text? Long runs of one byte, and tables of a few, are made of characters as well.
bool reads_as_text(Bytes first);

/// May a text begin so? In the middle of a line are small letters, and marks that end or join something;
/// the first line of a table has as many fields as the next ones.
bool begins_as_text(Bytes first);

/// Does a document begin so that cannot be taken for a part of another text? Where it is in the middle of
/// a line, another file begins there.
bool begins_a_document(Bytes first);

}  // namespace undershelf
