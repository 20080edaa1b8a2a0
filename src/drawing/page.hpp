#pragma once
// Pages of pictures, lines and words, as whoever lays them out describes them: a length in eight bytes (the
// lowest first), so many bytes of JSON, and the files of the pictures after it.
//
//     {"width": 595, "height": 842, "pages": [[
//         {"text": "...", "x": 40, "y": 40, "w": 200, "lines": 2, "size": 9, "bold": true, "ink": "222222"},
//         {"image": [OFFSET, LENGTH], "x": 40, "y": 60, "w": 120, "h": 90},
//         {"box": "f2f2ee", "x": 40, "y": 60, "w": 120, "h": 90},
//         {"line": [[0, 0], [10, 5]], "ink": "222222", "width": 1}]]}
//
// Sizes are points of 1/72 inch from the upper left corner. A picture is a JPEG or PNG file of our own
// drawing, at an offset after the JSON; it is fitted into its place. `right` has a text end at its x. A box
// without `box` as its colour has a line around it alone.

#include "drawing/module.hpp"

namespace undershelf::drawing {

/// As a PDF file with all pages, or as an SVG or PNG file of the first one, this with `pixels` at its longer
/// side. False where the description makes no sense.
bool draw_page(Content& description, const Wanted& wanted, const TakeFile& take);

}  // namespace undershelf::drawing
