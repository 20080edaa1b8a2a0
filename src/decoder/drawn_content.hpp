#pragma once
// How a content is drawn: as the picture that it is, as a smaller one that is kept in it, or as its first
// lines.

#include <string>

#include "content/apart_messages.hpp"
#include "drawing/module.hpp"

namespace undershelf {

/// For a process of its own, which is ended when it takes too long. `file` is the drawn one; empty where
/// nothing could be drawn.
Drawn drawn_content(const drawing::Module& module, Content& content, const content::Request& request,
                    std::string& file);
Drawn drawn_page(const drawing::Module& module, Content& description, const content::Request& request,
                 std::string& file);

}  // namespace undershelf
