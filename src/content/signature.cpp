#include "content/signature.hpp"

#include <algorithm>
#include <array>
#include <string>

namespace undershelf {

namespace {

struct Signature {
    std::string_view format;
    std::size_t at;
    std::string_view magic;
    std::string_view extensions;  ///< separated and surrounded by spaces
    std::size_t more_at = 0;
    std::string_view more = {};
};

using namespace std::string_view_literals;

// Longer and stricter signatures stand first; extensions are those whose files must begin so.
constexpr auto signatures = std::to_array<Signature>({
    {"PNG picture", 0, "\x89PNG\r\n\x1a\n"sv, " png "},
    {"JPEG picture", 0, "\xff\xd8\xff"sv, " jpg jpeg jpe "},
    {"GIF picture", 0, "GIF87a"sv, " gif "},
    {"GIF picture", 0, "GIF89a"sv, " gif "},
    {"WebP picture", 0, "RIFF"sv, " webp ", 8, "WEBP"sv},
    {"WAV sound", 0, "RIFF"sv, " wav ", 8, "WAVE"sv},
    {"AVI video", 0, "RIFF"sv, " avi ", 8, "AVI "sv},
    {"TIFF picture", 0, "II*\0"sv, " tif tiff dng nef arw cr2 "},
    {"TIFF picture", 0, "MM\0*"sv, " tif tiff dng nef "},
    {"Panasonic raw picture", 0, "IIU\0"sv, " rw2 "},
    {"Olympus raw picture", 0, "IIRO"sv, " orf "},
    {"Fujifilm raw picture", 0, "FUJIFILMCCD-RAW"sv, " raf "},
    {"Photoshop picture", 0, "8BPS\0\1"sv, " psd "},
    {"BMP picture", 0, "BM"sv, " bmp ", 6, "\0\0\0\0"sv},
    {"icon", 0, "\0\0\1\0"sv, " ico "},
    {"HEIF picture", 4, "ftyphei"sv, " heic heif "},
    {"HEIF picture", 4, "ftypmif1"sv, " heic heif avif "},
    {"AVIF picture", 4, "ftypavif"sv, " avif "},
    {"Canon raw picture", 4, "ftypcrx"sv, " cr3 "},
    {"QuickTime video", 4, "ftypqt"sv, " mov "},
    {"MPEG-4 sound", 4, "ftypM4A"sv, " m4a mp4 "},
    {"MPEG-4 video", 4, "ftyp"sv, " mp4 m4v mov m4a 3gp "},
    {"QuickTime video", 4, "moov"sv, " mov mp4 "},
    {"QuickTime video", 4, "mdat"sv, " mov mp4 "},
    {"QuickTime video", 4, "wide"sv, " mov "},
    {"Matroska video", 0, "\x1a\x45\xdf\xa3"sv, " mkv webm mka "},
    {"ASF video", 0, "\x30\x26\xb2\x75\x8e\x66\xcf\x11"sv, " wmv wma asf "},
    {"MPEG video", 0, "\0\0\1\xba"sv, " mpg mpeg vob "},
    {"MPEG video", 0, "\0\0\1\xb3"sv, " mpg mpeg "},
    {"FLAC sound", 0, "fLaC"sv, " flac "},
    {"Ogg sound", 0, "OggS"sv, " ogg oga ogv opus "},
    {"MP3 sound", 0, "ID3"sv, " mp3 "},
    {"MP3 sound", 0, "\xff\xfb"sv, " mp3 "},
    {"MP3 sound", 0, "\xff\xf3"sv, " mp3 "},
    {"MP3 sound", 0, "\xff\xf2"sv, " mp3 "},
    {"MP3 sound", 0, "\xff\xfa"sv, " mp3 "},
    {"AIFF sound", 0, "FORM"sv, " aif aiff ", 8, "AIF"sv},
    {"MIDI sound", 0, "MThd"sv, " mid midi "},
    {"PDF document", 0, "%PDF-"sv, " pdf ai "},
    {"PostScript document", 0, "%!PS"sv, " ps eps ai "},
    {"OLE2 document", 0, "\xd0\xcf\x11\xe0\xa1\xb1\x1a\xe1"sv, " doc xls ppt msg msi dot pub vsd "},
    {"RTF document", 0, "{\\rtf"sv, " rtf doc "},
    {"ZIP archive", 0, "PK\3\4"sv,
     " zip docx xlsx pptx docm xlsm dotx vsdx odt ods odp odg epub jar apk pages numbers key "},
    {"ZIP archive", 0, "PK\5\6"sv, " zip "},
    {"gzip archive", 0, "\x1f\x8b\x08"sv, " gz tgz "},
    {"bzip2 archive", 0, "BZh"sv, " bz2 "},
    {"xz archive", 0,
     "\xfd"
     "7zXZ\0"sv,
     " xz "},
    {"Zstandard archive", 0, "\x28\xb5\x2f\xfd"sv, " zst "},
    {"LZ4 archive", 0, "\x04\x22\x4d\x18"sv, " lz4 "},
    {"7z archive", 0, "7z\xbc\xaf\x27\x1c"sv, " 7z "},
    {"RAR archive", 0, "Rar!\x1a\x07"sv, " rar "},
    {"cabinet archive", 0, "MSCF\0\0\0\0"sv, " cab "},
    {"tar archive", 257, "ustar"sv, " tar "},
    {"SQLite database", 0, "SQLite format 3\0"sv, " db sqlite sqlite3 db3 "},
    {"Access database", 4, "Standard Jet DB\0"sv, " mdb "},
    {"Access database", 4, "Standard ACE DB\0"sv, " accdb "},
    {"ELF program", 0,
     "\x7f"
     "ELF"sv,
     " elf so o ko "},
    {"Windows program", 0, "MZ"sv, " exe dll sys "},
    {"Java class", 0, "\xca\xfe\xba\xbe"sv, " class "},
    {"mail folder", 0, "!BDN"sv, " pst ost "},
});

/// Extensions that other formats share, so that no signature among ours is not yet a contradiction.
constexpr std::string_view lenient =
    " db bin doc ai key mp3 mpg mpeg mov bmp ico tar com mp4 m4a ps eps pages numbers o so class vob dmg ";

constexpr std::string_view text_extensions =
    " txt csv tsv md log xml html htm svg json yaml yml ini cfg conf tex css c cpp h hpp java srt rst toml "
    "eml mbox vcf ics sql py js pl rb sh bat cmd ";

constexpr std::string_view compressed =
    " jpg jpeg png gif webp heic heif avif mp3 ogg opus m4a mp4 m4v mov mkv webm zip docx xlsx pptx odt "
    "ods odp epub gz tgz bz2 xz zst 7z rar jar apk pdf ";

bool lists(std::string_view list, std::string_view ext) {
    if (ext.empty()) return false;
    // Every place where it stands is held against the spaces around it.
    for (auto at = list.find(ext); at != std::string_view::npos; at = list.find(ext, at + 1)) {
        if (at > 0 && list[at - 1] == ' ' && at + ext.size() < list.size() && list[at + ext.size()] == ' ')
            return true;
    }
    return false;
}

bool stands_at(Bytes first, std::size_t at, std::string_view magic) {
    return first.size() >= at + magic.size() &&
           std::equal(magic.begin(), magic.end(), first.begin() + static_cast<std::ptrdiff_t>(at),
                      [](char a, std::uint8_t b) { return static_cast<std::uint8_t>(a) == b; });
}

bool matches(const Signature& s, Bytes first) {
    return stands_at(first, s.at, s.magic) && stands_at(first, s.more_at, s.more);
}

bool is_utf16(Bytes bytes) {
    return bytes.size() >= 2 &&
           ((bytes[0] == 0xFF && bytes[1] == 0xFE) || (bytes[0] == 0xFE && bytes[1] == 0xFF));
}

/// The words a text of this kind begins with, behind white space and a byte order mark; empty where there are
/// none.
bool begins_like(Bytes first, std::string_view ext) {
    std::size_t at = stands_at(first, 0, "\xef\xbb\xbf") ? 3 : 0;
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
    return {begins_like(first, ext) ? Agreement::agrees : Agreement::weakly, "text"};
}

}  // namespace

namespace {
const Signature* signature_of(Bytes first) {
    for (const auto& s : signatures) {
        // Two bytes alone are too little to name a format by.
        if (s.magic.size() + s.more.size() > 2 && matches(s, first)) return &s;
    }
    return nullptr;
}
}  // namespace

std::string_view recognise_format(Bytes first) {
    const auto* s = signature_of(first);
    return s ? s->format : std::string_view{};
}

std::string_view usual_extension(Bytes first) {
    if (const auto* s = signature_of(first)) {
        const auto list = s->extensions.substr(1);
        return list.substr(0, list.find(' '));
    }
    const bool is_text = !first.empty() && first_byte_not_text(first) == std::string_view::npos;
    return is_text ? "txt" : "";
}

bool is_text_extension(std::string_view ext) {
    return lists(text_extensions, ext);
}
bool has_expected_start(std::string_view ext) {
    return is_text_extension(ext) ||
           std::any_of(signatures.begin(), signatures.end(),
                       [&](const Signature& s) { return lists(s.extensions, ext); });
}
bool rarely_holds_zeros(std::string_view ext) {
    return lists(compressed, ext) || lists(text_extensions, ext);
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

FirstBytes compare_with_extension(Bytes first, std::string_view ext) {
    if (first.empty()) return {};
    const auto format = recognise_format(first);
    if (is_text_extension(ext)) return compare_text(first, ext, format);
    bool expected = false;
    for (const auto& s : signatures) {
        if (!lists(s.extensions, ext)) continue;
        if (matches(s, first)) return {Agreement::agrees, s.format};
        expected = true;
    }
    if (!expected) return {Agreement::unknown, format};
    if (format.empty() && lists(lenient, ext)) return {Agreement::unknown, {}};
    return {Agreement::contradicts, format};
}

}  // namespace undershelf
