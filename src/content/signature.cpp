#include "content/signature.hpp"

#include <algorithm>
#include <string>

#include "base/text.hpp"
#include "content/formats.hpp"
#include "content/readers.hpp"

namespace undershelf {

namespace {

/// Extensions that other formats share, so that no signature among ours is not yet a contradiction.
constexpr std::string_view lenient =
    " db bin doc ai key mp3 mpg mpeg mov bmp ico com mp4 m4a ps eps pages numbers o so class vob dmg ";

constexpr std::string_view text_extensions =
    " txt csv tsv md log xml html htm svg json yaml yml ini cfg conf tex css c cpp h hpp java srt rst toml "
    "eml mbox vcf ics sql py js pl rb sh bat cmd ";

constexpr std::string_view compressed =
    " jpg jpeg png gif webp heic heif avif mp3 ogg opus m4a mp4 m4v mov mkv webm zip docx xlsx pptx odt "
    "ods odp epub gz tgz bz2 xz zst 7z rar jar apk pdf ";

bool is_utf16(Bytes bytes) {
    return bytes.size() >= 2 &&
           ((bytes[0] == 0xFF && bytes[1] == 0xFE) || (bytes[0] == 0xFE && bytes[1] == 0xFF));
}

/// The words a text of this kind begins with, behind white space and a byte order mark; empty where there are
/// none.
bool begins_as_text(Bytes first, std::string_view ext) {
    std::size_t at = content::begins_with(first, "\xef\xbb\xbf") ? 3 : 0;
    while (at < first.size() &&
           (first[at] == ' ' || first[at] == '\n' || first[at] == '\r' || first[at] == '\t'))
        ++at;
    if (at >= first.size()) return false;
    if (ext == "xml" || ext == "html" || ext == "htm" || ext == "svg") return first[at] == '<';
    if (ext == "json") return first[at] == '{' || first[at] == '[';
    return false;
}

FirstBytes compare_text(Bytes first, std::string_view ext, std::string_view format) {
    if (!format.empty()) return {Agreement::contradicts, format};
    if (!is_utf16(first) && first_byte_not_text(first) != std::string_view::npos)
        return {Agreement::contradicts, "binary data"};
    return {begins_as_text(first, ext) ? Agreement::agrees : Agreement::weakly, "text"};
}

}  // namespace

std::string_view recognise_format(Bytes first) {
    const auto* format = format_of_start(first);
    return format ? format->name : std::string_view{};
}

std::string_view usual_extension(Bytes first) {
    if (const auto* format = format_of_start(first)) {
        const auto list = format->extensions.substr(1);
        return list.substr(0, list.find(' '));
    }
    const bool is_text = !first.empty() && first_byte_not_text(first) == std::string_view::npos;
    return is_text ? "txt" : "";
}

bool is_text_extension(std::string_view ext) {
    return lists_word(text_extensions, ext);
}
bool has_expected_start(std::string_view ext) {
    const auto all = formats();
    return is_text_extension(ext) ||
           std::any_of(all.begin(), all.end(), [&](const Format& f) { return promises(ext, f); });
}
bool rarely_holds_zeros(std::string_view ext) {
    return lists_word(compressed, ext) || lists_word(text_extensions, ext);
}

std::size_t first_byte_not_text(Bytes bytes) {
    for (std::size_t i = 0; i < bytes.size(); ++i) {
        const auto b = bytes[i];
        if ((b < 0x20 && b != '\n' && b != '\r' && b != '\t' && b != '\f' && b != 0x1B && b != '\b') ||
            b == 0x7F)
            return i;
    }
    return std::string_view::npos;
}

std::string content_extension(std::string_view name) {
    constexpr std::size_t bin_record = 8;  // characters: `$I` and six more
    const bool of_bin = name.starts_with("$I") && std::min(name.find('.'), name.size()) == bin_record;
    return of_bin || name.starts_with("._") ? std::string() : extension_of(name);
}

FirstBytes compare_with_extension(Bytes first, std::string_view ext) {
    if (first.empty()) return {};
    const auto format = recognise_format(first);
    if (is_text_extension(ext)) return compare_text(first, ext, format);
    bool expected = false;
    for (const auto& f : formats()) {
        if (!promises(ext, f)) continue;
        if (begins_like(f, first)) return {Agreement::agrees, f.name};
        expected = true;
    }
    if (!expected) return {Agreement::unknown, format};
    if (format.empty() && lists_word(lenient, ext)) return {Agreement::unknown, {}};
    return {Agreement::contradicts, format};
}

}  // namespace undershelf
