#pragma once
// Does a text begin as a well-formed XML document does? By our own code, as it is asked of anything.

#include <string_view>

namespace undershelf::content {

/// `text`: the start of a document in UTF-8, or all of it, from its outermost element or what comes before
/// that. True where nothing contradicts as far as it goes, or to the end of the outermost element: tags are
/// closed in their order, attributes are quoted and each there once, references are known ones (XML 1.0,
/// fifth edition, productions 1, 14, 39 and 66 to 68).
bool begins_well_formed(std::string_view text);

}  // namespace undershelf::content
