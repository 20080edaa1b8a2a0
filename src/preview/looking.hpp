#pragma once
// What an entry is drawn as, and which words say how that came out.

#include "preview/drawings.hpp"
#include "shelf/shelf.hpp"

namespace undershelf {

/// The format that an entry's content is drawn by: what its start shows, or what a check found it to be, or,
/// where it begins like nothing, what its extension promises. Null for none.
const Format* format_to_draw(const ShelfEntry& entry, Content& content);

/// `4000x3000 pixels`; `as far as it holds: 63 of 100 parts of its height, the rest is hatched`; what a card
/// says instead. For a sentence after the place of the drawing.
std::string drawn_in_words(const Drawn& drawn);

/// Draws an entry's content; nothing where it cannot be drawn, or where what is there is known to be
/// another's.
Drawn draw_entry(Drawings& drawings, const ShelfEntry& entry, Content& content, const Format* format,
                 const PictureWish& wish, std::string& file);

/// A picture that says what cannot be drawn: its format, size and name, and why.
std::string draw_card(Drawings& drawings, const ShelfEntry& entry, const Format* format,
                      const std::string& why, const PictureWish& wish);

/// The name of a format as a heading: `JPEG picture`; `unknown format` for null.
std::string heading_of(const Format* format, const ShelfEntry& entry);

}  // namespace undershelf
