#pragma once
// The text of RTF documents.

#include "content/format.hpp"

namespace undershelf::content {

/// Without fonts, styles and pictures.
void rtf_words(Content& content, const TakeText& take);

}  // namespace undershelf::content
