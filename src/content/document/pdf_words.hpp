#pragma once
// The text of PDF documents.

#include "content/format.hpp"

namespace undershelf::content {

/// Strings that pages show, as far as their fonts say which characters they are.
void pdf_words(Content& content, const TakeText& take);

}  // namespace undershelf::content
