#pragma once
// What the readers of texts share.

#include "content/characters.hpp"
#include "content/format.hpp"

namespace undershelf::content {

/// Goes through the content as through a text: weakly checked, to its end or to where it turns into something
/// else.
Check& check_as_text(Content& content, Check& out);

/// How a text is encoded, when it says so itself: the name behind `charset=` or `encoding=` in its first
/// bytes; empty where there is none.
std::string stated_charset(std::string_view start);
/// The same, or what the bytes themselves tell, of a text in a code page.
std::string charset_of(Bytes start, Encoding encoding);
/// Bytes of a text; `charset` is the name of a code page, where one is stated.
std::string as_utf8(Bytes bytes, Encoding encoding, const std::string& charset = {});
/// The content's first 64 KiB as UTF-8, in the encoding that it states or shows. Code pages that nothing
/// tells of count as Windows-1252.
std::string text_start(Content& content);

}  // namespace undershelf::content
