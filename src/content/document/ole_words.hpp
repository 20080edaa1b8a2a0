#pragma once
// The text of compound files.

#include "content/format.hpp"

namespace undershelf::content {

/// [MS-DOC] 2.4.1, [MS-XLS] 2.4.265, [MS-PPT] 2.9.42 and 2.9.43.
void ole_words(Content& content, const TakeText& take);

}  // namespace undershelf::content
