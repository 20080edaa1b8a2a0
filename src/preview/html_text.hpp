#pragma once
// Text and bytes as HTML and its policies have them.

#include <string>
#include <string_view>

namespace undershelf {

/// Text between tags, and in attributes in quotation marks (HTML, 13.1.2.3): markup becomes references, what
/// is unprintable `?`.
std::string html_text(std::string_view text);
/// RFC 4648, section 4.
std::string base64(std::string_view bytes);
/// As a content security policy names a script or style that is in the page: `'sha256-...'`.
std::string policy_hash(std::string_view inside);

}  // namespace undershelf
