#pragma once
// Mail messages line by line (RFC 5322, MIME: RFC 2045 and 2046).

#include <optional>
#include <string>
#include <string_view>

#include "content/density.hpp"

namespace undershelf::content {

/// Heads and texts of one message or of a folder of them; quoted-printable and base64 are undone where a part
/// is text.
void mail_words(Content& content, const TakeText& take);

/// Do lines beginning so look like the head of a message? `text` is its first lines.
bool begins_as_message(std::string_view text);
/// The body of the first field of this name, folded lines joined, as it is; empty for none.
std::string header_field(std::string_view text, std::string_view name);
/// The name of a header field; empty for a line that is none.
std::string_view field_name(std::string_view line);
/// Does it begin with a field that messages have, or with the line that a folder has before one?
bool begins_with_mail_field(std::string_view text);
/// Encoded words (RFC 2047) as UTF-8.
std::string decoded_words(std::string_view text);
/// Up to the first character that is no digit of it; one line, below a gigabyte.
std::string from_base64(std::string_view text);
/// Quoted-printable (RFC 2045, 6.7) of one line; with `words`, as encoded words have it.
std::string from_quoted(std::string_view text, bool words = false);

}  // namespace undershelf::content
