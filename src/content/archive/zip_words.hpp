#pragma once
// The text that is in the members of a ZIP file: of office documents and books in the order in which people
// read it.

#include "content/format.hpp"

namespace undershelf::content {

void zip_words(Content& content, const TakeText& take);

}  // namespace undershelf::content
