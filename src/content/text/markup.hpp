#pragma once
// How documents of tags begin, XML or not.

#include <string>
#include <string_view>

#include "base/bytes.hpp"

namespace undershelf::content {

struct MarkupStart {
    bool declared = false;  ///< begins with an XML declaration
    bool is_html = false;   ///< by its document type, or by its first tag
    std::string
        root;  ///< the first tag's name, without a prefix; empty when it is too far on, or does not exist
};

/// Of a content that begins with these bytes.
MarkupStart markup_start(Bytes first);

/// The entities that XML has, a space that HTML has, and numbers become characters.
std::string without_entities(std::string_view text);

/// What is between the first `<NAME ...>` and the next tag, entities undone; any case.
std::string between_tags(std::string_view text, std::string_view name);

}  // namespace undershelf::content
