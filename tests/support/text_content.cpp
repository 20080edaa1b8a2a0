// Small texts of every kind.

#include <fmt/format.h>

#include "support/file_parts.hpp"
#include "support/memory_content.hpp"

namespace undershelf::test {

namespace {
ByteVector bytes_of(std::string_view text) {
    return {text.begin(), text.end()};
}
}  // namespace

ByteVector text_file(std::size_t lines) {
    ByteVector out;
    for (std::size_t i = 0; i < lines; ++i)
        append(out, fmt::format("Cue {}: the lantern goes up, Señor Pinwheel waits in the wings.\r\n", i));
    return out;
}

ByteVector utf16_file(bool big_endian, bool marked) {
    const auto plain = text_file(80);
    ByteVector out;
    if (marked) append_number(out, 0xFEFF, 2, big_endian);
    for (const auto b : plain) append_number(out, b < 0x80 ? b : u'é', 2, big_endian);
    return out;
}

ByteVector xml_file(std::string_view root, std::size_t cues) {
    ByteVector out;
    append(out, fmt::format("<?xml version=\"1.0\" encoding=\"UTF-8\"?>\n<{}>\n  <title>Cues &amp; "
                            "props</title>\n",
                            root));
    for (std::size_t i = 0; i < cues; ++i)
        append(out, fmt::format("  <cue number=\"{}\"><what>lantern {}</what></cue>\n", i, i * 7));
    append(out, fmt::format("</{}>\n", root.substr(0, root.find(' '))));
    return out;
}

ByteVector html_file() {
    auto out = bytes_of("<!DOCTYPE html>\n<html><head><title>Candlewick &#38; Lane</title></head><body>\n");
    append(out, text_file(40));
    append(out, "<p>closes <b>here\n</html>\n");
    return out;
}

ByteVector rtf_file() {
    auto out =
        bytes_of("{\\rtf1\\ansi{\\fonttbl{\\f0 Times;}}{\\info{\\title The Clockmaker\\'92s \\u233?tude}}\n");
    for (int i = 0; i < 60; ++i) append(out, fmt::format("{{\\b Act {}}} The curtain rises.\\par\n", i));
    append(out, "{\\pict\\wmetafile8 ");
    for (int i = 0; i < 40; ++i) append(out, "0123456789abcdef0123456789abcdef\n");
    append(out, "}}");
    return out;
}

ByteVector eml_file() {
    auto out = bytes_of(
        "Received: from stage by office; Mon, 4 Mar 2024 19:30:05 +0000\r\nFrom: Tilda "
        "<tilda@candlewick.example>\r\n"
        "To: props@candlewick.example\r\nSubject: =?utf-8?Q?Cues_for?=\r\n "
        "=?utf-8?B?IHRoZSB0aGlyZCBhY3Q=?=\r\n"
        "MIME-Version: 1.0\r\nContent-Type: multipart/mixed;\r\n boundary=\"seam\"\r\n\r\n--seam\r\n"
        "Content-Type: text/plain\r\n\r\nThe list is below.\r\n--seam\r\nContent-Type: image/png\r\n"
        "Content-Transfer-Encoding: base64\r\n\r\n");
    for (int i = 0; i < 60; ++i)
        append(out, fmt::format(
                        "iVBORw0KGgoAAAANSUhEUgAA{:04}EAIAAACQkWg2AAAAGXRFWHRTb2Z0d2FyZQBBZG9iZSBJ\r\n", i));
    append(out, "AAA=\r\n--seam--\r\n");
    return out;
}

ByteVector mbox_file() {
    ByteVector out;
    for (int i = 0; i < 4; ++i)
        append(out, fmt::format("From tilda@candlewick.example Mon Mar  4 19:30:{:02} 2024\nFrom: Tilda\nTo: "
                                "Props\nSubject: Cue {}\n\nThe lantern, please.\n\n",
                                i, i));
    return out;
}

}  // namespace undershelf::test
