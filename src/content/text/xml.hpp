#pragma once
// Reading markup documents (XML 1.0) with expat, within bounds.

#include <functional>
#include <string>
#include <string_view>

#include "content/density.hpp"

namespace undershelf::content {

enum class XmlEnd : std::uint8_t {
    whole,     ///< to the end of its outermost element, and what may be after that
    cut,       ///< the content ends before
    broken,    ///< it contradicts itself
    too_much,  ///< deeper, or with longer tags, than is read
    unknown,   ///< in an encoding that is not read
};
struct XmlRead {
    XmlEnd end = XmlEnd::whole;
    std::uint64_t at = 0;  ///< bytes: where it ends, or goes wrong
    std::string_view why;  ///< of what is broken, the parser's words
    std::string root;      ///< the outermost element's name, without a prefix
    Density density;       ///< of tags
};

/// Gets texts, UTF-8, as they come, with the name of the element that they are in, without a prefix. Its
/// answer says whether to go on.
using XmlTexts = std::function<bool(std::string_view element, std::string_view text)>;

/// Reads the document at the content's start.
XmlRead read_xml(Content& content, const XmlTexts& texts = {});

}  // namespace undershelf::content
