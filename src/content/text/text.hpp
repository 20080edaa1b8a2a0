#pragma once
// What the readers of texts share.

#include "content/characters.hpp"
#include "content/format.hpp"

namespace undershelf::content {

/// Goes through the content as through a text: weakly checked, to its end or to where it turns into something
/// else.
Check& check_as_text(Content& content, Check& out);

/// What is between the fields of a table's rows: as often in each of the first ones, but for the very
/// first. Nothing for what is no table of three columns at least.
std::optional<char> separator_of_rows(std::string_view text);

/// How a text is encoded, when it says so itself: the name after `charset=` or `encoding=` in its first
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
