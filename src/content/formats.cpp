#include "content/formats.hpp"

#include <algorithm>
#include <array>
#include <new>

#include "base/text.hpp"
#include "content/apart.hpp"
#include "content/readers.hpp"

namespace undershelf {

namespace {

using namespace content;
using namespace std::string_view_literals;

constexpr std::uint64_t KiB = 1024;

// Starts of formats that nobody here reads yet.
constexpr Start aiff_start[] = {{0, "FORM"sv, 8, "AIF"sv}};
constexpr Start midi_start[] = {{0, "MThd"sv}};
constexpr Start postscript_start[] = {{0, "%!PS"sv}};
constexpr Start lz4_start[] = {{0, "\x04\x22\x4d\x18"sv}};
constexpr Start access_start[] = {{4, "Standard Jet DB\0"sv}, {4, "Standard ACE DB\0"sv}};
constexpr Start class_start[] = {{0, "\xca\xfe\xba\xbe"sv}};
constexpr Start outlook_start[] = {{0, "!BDN"sv}};

// Of a family, what begins so and shows no more stands first.
constexpr auto all_formats = std::to_array<Format>({
    {"png", "PNG picture", Kind::picture, " png ", "png", Strength::strong, 64 * KiB},
    {"jpeg", "JPEG picture", Kind::picture, " jpg jpeg jpe ", "jpeg", Strength::fair, 64 * KiB},
    {"gif", "GIF picture", Kind::picture, " gif ", "gif", Strength::fair, 64 * KiB},
    {"webp", "WebP picture", Kind::picture, " webp ", "webp", Strength::fair},
    {"tiff", "TIFF picture", Kind::picture, " tif tiff ", "tiff", Strength::fair, 4 * KiB},
    {"raw", "raw picture", Kind::picture, " dng nef arw cr2 rw2 orf raf crw cr3 pef srw mrw x3f ", "tiff",
     Strength::weak, 64 * KiB},
    {"psd", "Photoshop picture", Kind::picture, " psd psb ", "psd", Strength::fair, 64 * KiB},
    {"bmp", "BMP picture", Kind::picture, " bmp ", "bmp", Strength::weak, 64 * KiB},
    {"ico", "icon", Kind::picture, " ico cur ", "ico", Strength::fair, 64 * KiB},
    {"heic", "HEIF picture", Kind::picture, " heic heif ", "heif", Strength::fair, 64 * KiB},
    {"avif", "AVIF picture", Kind::picture, " avif ", "heif", Strength::fair, 64 * KiB},
    {"mp4", "MPEG-4 video", Kind::video, " mp4 m4v 3gp ", "iso media", Strength::fair, 64 * KiB},
    {"m4a", "MPEG-4 sound", Kind::audio, " m4a ", "iso media", Strength::fair, 64 * KiB},
    {"mov", "QuickTime video", Kind::video, " mov ", "iso media", Strength::fair, 64 * KiB},
    {"mkv", "Matroska video", Kind::video, " mkv mka ", "matroska", Strength::strong, 64 * KiB},
    {"webm", "WebM video", Kind::video, " webm ", "matroska", Strength::strong, 64 * KiB},
    {"avi", "AVI video", Kind::video, " avi ", "avi", Strength::fair, 64 * KiB},
    {"asf", "ASF video", Kind::video, " wmv wma asf ", "asf", Strength::fair, 64 * KiB},
    {"mpeg", "MPEG video", Kind::video, " mpg mpeg vob m2v ts m2ts mts ", "mpeg", Strength::fair, 64 * KiB},
    {"mp3", "MP3 sound", Kind::audio, " mp3 ", "mp3", Strength::fair, 8 * KiB},
    {"flac", "FLAC sound", Kind::audio, " flac ", "flac", Strength::strong},
    {"ogg", "Ogg sound", Kind::audio, " ogg oga ogv ", "ogg", Strength::strong},
    {"opus", "Opus sound", Kind::audio, " opus ", "ogg", Strength::strong},
    {"wav", "WAV sound", Kind::audio, " wav ", "wav", Strength::weak, 64 * KiB},
    {"aiff", "AIFF sound", Kind::audio, " aif aiff ", "aiff", {}, 0, aiff_start},
    {"midi", "MIDI sound", Kind::audio, " mid midi ", "midi", {}, 0, midi_start},
    {"pdf", "PDF document", Kind::document, " pdf ai ", "pdf", Strength::fair, 64 * KiB},
    {"postscript",
     "PostScript document",
     Kind::document,
     " ps eps ai ",
     "postscript",
     {},
     0,
     postscript_start},
    {"doc", "Word document", Kind::document, " doc dot ", "ole2", Strength::fair, 64 * KiB},
    {"xls", "Excel workbook", Kind::document, " xls ", "ole2", Strength::fair, 64 * KiB},
    {"ppt", "PowerPoint presentation", Kind::document, " ppt ", "ole2", Strength::fair, 64 * KiB},
    {"ole2", "OLE2 document", Kind::document, " ole msg msi pub vsd ", "ole2", Strength::weak, 64 * KiB},
    {"rtf", "RTF document", Kind::document, " rtf doc ", "rtf", Strength::fair},
    {"html", "web page", Kind::text, " html htm xhtml shtml xls doc ", "markup", Strength::fair, 4 * KiB},
    {"svg", "SVG picture", Kind::picture, " svg ", "markup", Strength::fair, 64 * KiB},
    {"xml", "XML document", Kind::text, " xml xsl xslt xsd kml gpx rss plist xmp ts ", "markup",
     Strength::fair, 64 * KiB},
    {"eml", "mail", Kind::mail, " eml mht mhtml emlx ", "mail", Strength::fair, 4 * KiB},
    {"mbox", "mail folder", Kind::mail, " mbox mbx ", "mail", Strength::weak, 4 * KiB},
    {"text", "text", Kind::text,
     " txt text csv tsv md log json yaml yml ini cfg conf tex bib css c cc cpp h hpp java rst srt vtt toml "
     "vcf "
     "ics sql py js pl rb sh bat cmd ps1 nfo ts ",
     "text", Strength::weak, 4 * KiB},
    {"zip", "ZIP archive", Kind::archive, " zip docm xlsm dotx vsdx odg apk pages numbers key ", "zip",
     Strength::strong, 64 * KiB},
    {"docx", "Word document", Kind::document, " docx ", "zip", Strength::strong, 64 * KiB},
    {"xlsx", "Excel workbook", Kind::document, " xlsx ", "zip", Strength::strong, 64 * KiB},
    {"pptx", "PowerPoint presentation", Kind::document, " pptx ", "zip", Strength::strong, 64 * KiB},
    {"odt", "OpenDocument text", Kind::document, " odt ", "zip", Strength::strong, 64 * KiB},
    {"ods", "OpenDocument spreadsheet", Kind::document, " ods ", "zip", Strength::strong, 64 * KiB},
    {"odp", "OpenDocument presentation", Kind::document, " odp ", "zip", Strength::strong, 64 * KiB},
    {"epub", "EPUB book", Kind::document, " epub ", "zip", Strength::strong, 64 * KiB},
    {"jar", "Java archive", Kind::program, " jar ", "zip", Strength::strong, 64 * KiB},
    {"gzip", "gzip archive", Kind::archive, " gz tgz ", "gzip", Strength::strong, 64 * KiB},
    {"bzip2", "bzip2 archive", Kind::archive, " bz2 ", "bzip2", Strength::strong},
    {"xz", "xz archive", Kind::archive, " xz ", "xz", Strength::strong},
    {"zstd", "Zstandard archive", Kind::archive, " zst ", "zstd", Strength::strong},
    {"lz4", "LZ4 archive", Kind::archive, " lz4 ", "lz4", {}, 0, lz4_start},
    {"7z", "7z archive", Kind::archive, " 7z ", "7z", Strength::strong},
    {"rar", "RAR archive", Kind::archive, " rar ", "rar", Strength::weak, 64 * KiB},
    {"cab", "cabinet archive", Kind::archive, " cab ", "cab", Strength::strong},
    {"tar", "tar archive", Kind::archive, " tar ", "tar", Strength::weak, 64 * KiB},
    {"sqlite", "SQLite database", Kind::database, " db sqlite sqlite3 db3 ", "sqlite", Strength::fair,
     64 * KiB},
    {"access", "Access database", Kind::database, " mdb accdb ", "access", {}, 0, access_start},
    {"elf", "ELF program", Kind::program, " elf so o ko ", "elf", Strength::weak, 64 * KiB},
    {"pe", "Windows program", Kind::program, " exe dll sys ", "pe", Strength::weak, 64 * KiB},
    {"ttf", "TrueType font", Kind::other, " ttf ", "sfnt", Strength::strong, 64 * KiB},
    {"otf", "OpenType font", Kind::other, " otf ", "sfnt", Strength::strong, 64 * KiB},
    {"woff", "WOFF font", Kind::other, " woff ", "woff", Strength::strong, 64 * KiB},
    {"woff2", "WOFF2 font", Kind::other, " woff2 ", "woff2", Strength::fair, 64 * KiB},
    {"class", "Java class", Kind::program, " class ", "class", {}, 0, class_start},
    {"outlook", "Outlook mail folder", Kind::mail, " pst ost ", "outlook", {}, 0, outlook_start},
});

const std::vector<const FormatReader*>& readers() {
    static const std::vector<const FormatReader*> all{
        &png(),      &jpeg(),      &gif(),  &pdf(),  &zip(),    &gzip(), &bzip2(), &xz(),  &zstd(),
        &webp(),     &tiff(),      &raw(),  &ole2(), &sqlite(), &flac(), &ogg(),   &mp3(), &iso_media(),
        &matroska(), &seven_zip(), &cab(),  &rar(),  &tar(),    &wav(),  &avi(),   &bmp(), &sfnt(),
        &woff(),     &elf(),       &pe(),   &heif(), &psd(),    &ico(),  &woff2(), &asf(), &mpeg(),
        &rtf(),      &xml(),       &html(), &eml(),  &mbox(),   &text()};
    return all;
}

struct Best {
    Recognised recognised;
    const FormatReader* reader = nullptr;
};
Best best_reader(Bytes first) {
    Best best;
    for (const auto* r : readers()) {
        const auto seen = r->recognise(first);
        if (seen.sure > best.recognised.sure) best = {seen, r};
    }
    return best;
}

bool stands_at(Bytes first, std::size_t at, std::string_view magic) {
    return first.size() >= at && begins_with(first.subspan(at), magic);
}
/// Two bytes alone are too little to name a format by.
constexpr std::size_t least_magic = 3;

bool has_start(const Format& format, Bytes first, std::size_t least) {
    return std::any_of(format.starts.begin(), format.starts.end(), [&](const Start& s) {
        return s.magic.size() + s.more.size() >= least && stands_at(first, s.at, s.magic) &&
               stands_at(first, s.more_at, s.more);
    });
}

}  // namespace

std::span<const Format> formats() {
    return all_formats;
}

const Format* format_named(std::string_view word) {
    const auto it =
        std::find_if(all_formats.begin(), all_formats.end(), [&](const Format& f) { return f.word == word; });
    return it == all_formats.end() ? nullptr : &*it;
}

namespace {
/// What begins like a format that has no reader.
const Format* format_without_reader(Bytes first) {
    const auto it = std::find_if(all_formats.begin(), all_formats.end(),
                                 [&](const Format& f) { return has_start(f, first, least_magic); });
    return it == all_formats.end() ? nullptr : &*it;
}
}  // namespace

StartSeen start_seen(Bytes first) {
    const auto best = best_reader(first).recognised;
    // What is told by statistics alone may have a start of its own.
    if (best.sure <= sure_of_text) {
        if (const auto* other = format_without_reader(first)) return {other, sure_enough};
    }
    return best.sure > 0 ? StartSeen{format_named(best.format), best.sure} : StartSeen();
}

const Format* format_of_start(Bytes first, double least) {
    const auto seen = start_seen(first);
    return seen.sure >= least ? seen.format : nullptr;
}

bool begins_like(const Format& format, Bytes first) {
    if (!format.starts.empty() && has_start(format, first, 1)) return true;
    constexpr double possible = 0.5;
    const auto* seen = format_of_start(first, possible);
    return seen && seen->family == format.family;
}

bool is_text(const Format& format) {
    return lists_word(" text markup mail ", format.family);
}

bool lists_extension(std::string_view list, std::string_view ext) {
    const auto written = written_extension(ext);
    if (written.size() == ext.size() || ext.back() == maybe_longer) return lists_word(list, written);
    return list.find(" " + std::string(written)) != list.npos;
}

std::string_view written_extension(std::string_view ext) {
    const bool marked = !ext.empty() && (ext.back() == any_longer || ext.back() == maybe_longer);
    return marked ? ext.substr(0, ext.size() - 1) : ext;
}

bool promises(std::string_view ext, const Format& format) {
    return lists_extension(format.extensions, ext);
}

std::optional<Check> check_content(Content& content, const CheckLimits& limits, DecodersApart* apart) {
    Cursor start(content);
    const auto first = start.peek(4096);
    const auto best = best_reader(first);
    if (best.recognised.sure < sure_enough) return std::nullopt;
    if (best.recognised.sure <= sure_of_text && format_without_reader(first)) return std::nullopt;
    const auto& reader = *best.reader;
    Check check;
    check.format = best.recognised.format;
    const auto run = [&] {
        check = apart && reader.runs_apart() ? apart->check(content, limits) : reader.check(content, limits);
        check.holds_to = std::min(check.holds_to, content.size());
        if (limits.title) check.title = reader.title(content);
    };
    try {
        content::with_enough_memory(run);
    } catch (const std::bad_alloc&) {
        // One content that asks for too much takes nothing else down.
        check.finished = false;
        check.fails(0, "it takes more memory than a check may have");
    }
    return check;
}

Inside content_inside(Content& content, const Format& format) {
    Inside out;
    Cursor start(content);
    const auto best = best_reader(start.peek(4096));
    if (best.recognised.sure >= sure_enough) {
        try {
            content::with_enough_memory([&] {
                out.title = best.reader->title(content);
                out.dates = best.reader->dates(content);
                out.extension = best.reader->extension(content);
            });
        } catch (const std::bad_alloc&) {
            // What asks for too much tells nothing.
        }
    }
    if (out.extension.empty()) {
        auto usual = format.extensions;
        usual.remove_prefix(std::min(usual.find_first_not_of(' '), usual.size()));
        out.extension = usual.substr(0, usual.find(' '));
    }
    return out;
}

void content_text(Content& content, const TakeText& take) {
    Cursor start(content);
    const auto best = best_reader(start.peek(4096));
    if (best.recognised.sure >= sure_enough)
        content::with_enough_memory([&] { best.reader->text(content, take); });
}

namespace {
constexpr std::array<std::string_view, 4> strengths{"none", "weak", "fair", "strong"};
}

std::string_view word(Strength strength) {
    return strengths[static_cast<std::size_t>(strength)];
}

std::optional<Strength> strength_from_word(std::string_view text) {
    for (std::size_t i = 0; i < strengths.size(); ++i) {
        if (strengths[i] == text) return static_cast<Strength>(i);
    }
    return std::nullopt;
}

bool content::begins_with(Bytes bytes, std::string_view magic) {
    return bytes.size() >= magic.size() &&
           std::equal(magic.begin(), magic.end(), bytes.begin(),
                      [](char a, std::uint8_t b) { return static_cast<std::uint8_t>(a) == b; });
}

}  // namespace undershelf
