// What the rows of formats say, held against lists: a property that changes by accident shows. New formats
// need not be listed here.

#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <set>
#include <sstream>

#include "content/formats.hpp"
#include "content/glance.hpp"
#include "content/kinds.hpp"
#include "content/signature.hpp"

namespace undershelf {

namespace {

using namespace std::string_view_literals;

struct Row {
    std::string_view word, name;
    Kind kind;
    std::string_view extensions, family;
    Strength strength;
    std::uint64_t delay;  ///< KiB
};

constexpr Row rows[] = {
    // clang-format off
    {"png", "PNG picture", Kind::picture, "png", "png", Strength::strong, 64},
    {"jpeg", "JPEG picture", Kind::picture, "jpg jpeg jpe", "jpeg", Strength::fair, 64},
    {"gif", "GIF picture", Kind::picture, "gif", "gif", Strength::fair, 64},
    {"webp", "WebP picture", Kind::picture, "webp", "webp", Strength::fair, 0},
    {"tiff", "TIFF picture", Kind::picture, "tif tiff", "tiff", Strength::fair, 4},
    {"raw", "raw picture", Kind::picture, "dng nef arw cr2 rw2 orf raf crw cr3 pef srw mrw x3f", "tiff", Strength::weak, 64},
    {"psd", "Photoshop picture", Kind::picture, "psd psb", "psd", Strength::fair, 64},
    {"bmp", "BMP picture", Kind::picture, "bmp", "bmp", Strength::weak, 64},
    {"ico", "icon", Kind::picture, "ico cur", "ico", Strength::fair, 64},
    {"heic", "HEIF picture", Kind::picture, "heic heif", "heif", Strength::fair, 64},
    {"avif", "AVIF picture", Kind::picture, "avif", "heif", Strength::fair, 64},
    {"mp4", "MPEG-4 video", Kind::video, "mp4 m4v 3gp", "iso media", Strength::fair, 64},
    {"m4a", "MPEG-4 sound", Kind::audio, "m4a", "iso media", Strength::fair, 64},
    {"mov", "QuickTime video", Kind::video, "mov", "iso media", Strength::fair, 64},
    {"mkv", "Matroska video", Kind::video, "mkv mka", "matroska", Strength::strong, 64},
    {"webm", "WebM video", Kind::video, "webm", "matroska", Strength::strong, 64},
    {"avi", "AVI video", Kind::video, "avi", "avi", Strength::fair, 64},
    {"asf", "ASF video", Kind::video, "wmv wma asf", "asf", Strength::fair, 64},
    {"mpeg", "MPEG video", Kind::video, "mpg mpeg vob m2v ts m2ts mts", "mpeg", Strength::fair, 64},
    {"mp3", "MP3 sound", Kind::audio, "mp3", "mp3", Strength::fair, 8},
    {"flac", "FLAC sound", Kind::audio, "flac", "flac", Strength::strong, 0},
    {"ogg", "Ogg sound", Kind::audio, "ogg oga ogv", "ogg", Strength::strong, 0},
    {"opus", "Opus sound", Kind::audio, "opus", "ogg", Strength::strong, 0},
    {"wav", "WAV sound", Kind::audio, "wav", "wav", Strength::weak, 64},
    {"aiff", "AIFF sound", Kind::audio, "aif aiff", "aiff", Strength::none, 0},
    {"midi", "MIDI sound", Kind::audio, "mid midi", "midi", Strength::none, 0},
    {"pdf", "PDF document", Kind::document, "pdf ai", "pdf", Strength::fair, 64},
    {"postscript", "PostScript document", Kind::document, "ps eps ai", "postscript", Strength::none, 0},
    {"doc", "Word document", Kind::document, "doc dot", "ole2", Strength::fair, 64},
    {"xls", "Excel workbook", Kind::document, "xls", "ole2", Strength::fair, 64},
    {"ppt", "PowerPoint presentation", Kind::document, "ppt", "ole2", Strength::fair, 64},
    {"ole2", "OLE2 document", Kind::document, "ole msg msi pub vsd", "ole2", Strength::weak, 64},
    {"rtf", "RTF document", Kind::document, "rtf doc", "rtf", Strength::fair, 0},
    {"html", "web page", Kind::text, "html htm xhtml shtml xls doc", "markup", Strength::fair, 4},
    {"svg", "SVG picture", Kind::picture, "svg", "markup", Strength::fair, 64},
    {"xml", "XML document", Kind::text, "xml xsl xslt xsd kml gpx rss plist xmp ts", "markup", Strength::fair, 64},
    {"eml", "mail", Kind::mail, "eml mht mhtml emlx", "mail", Strength::fair, 4},
    {"mbox", "mail folder", Kind::mail, "mbox mbx", "mail", Strength::weak, 4},
    {"text", "text", Kind::text, "txt text csv tsv md log json yaml yml ini cfg conf tex bib css c cc cpp h hpp java rst srt vtt toml vcf ics sql py js pl rb sh bat cmd ps1 nfo ts", "text", Strength::weak, 4},
    {"zip", "ZIP archive", Kind::archive, "zip docm xlsm dotx vsdx odg apk pages numbers key", "zip", Strength::strong, 64},
    {"docx", "Word document", Kind::document, "docx", "zip", Strength::strong, 64},
    {"xlsx", "Excel workbook", Kind::document, "xlsx", "zip", Strength::strong, 64},
    {"pptx", "PowerPoint presentation", Kind::document, "pptx", "zip", Strength::strong, 64},
    {"odt", "OpenDocument text", Kind::document, "odt", "zip", Strength::strong, 64},
    {"ods", "OpenDocument spreadsheet", Kind::document, "ods", "zip", Strength::strong, 64},
    {"odp", "OpenDocument presentation", Kind::document, "odp", "zip", Strength::strong, 64},
    {"epub", "EPUB book", Kind::document, "epub", "zip", Strength::strong, 64},
    {"jar", "Java archive", Kind::program, "jar", "zip", Strength::strong, 64},
    {"gzip", "gzip archive", Kind::archive, "gz tgz", "gzip", Strength::strong, 64},
    {"bzip2", "bzip2 archive", Kind::archive, "bz2", "bzip2", Strength::strong, 0},
    {"xz", "xz archive", Kind::archive, "xz", "xz", Strength::strong, 0},
    {"zstd", "Zstandard archive", Kind::archive, "zst", "zstd", Strength::strong, 0},
    {"lz4", "LZ4 archive", Kind::archive, "lz4", "lz4", Strength::none, 0},
    {"7z", "7z archive", Kind::archive, "7z", "7z", Strength::strong, 0},
    {"rar", "RAR archive", Kind::archive, "rar", "rar", Strength::weak, 64},
    {"cab", "cabinet archive", Kind::archive, "cab", "cab", Strength::strong, 0},
    {"tar", "tar archive", Kind::archive, "tar", "tar", Strength::weak, 64},
    {"sqlite", "SQLite database", Kind::database, "db sqlite sqlite3 db3", "sqlite", Strength::fair, 64},
    {"access", "Access database", Kind::database, "mdb accdb", "access", Strength::none, 0},
    {"elf", "ELF program", Kind::program, "elf so o ko", "elf", Strength::weak, 64},
    {"pe", "Windows program", Kind::program, "exe dll sys", "pe", Strength::weak, 64},
    {"ttf", "TrueType font", Kind::other, "ttf", "sfnt", Strength::strong, 64},
    {"otf", "OpenType font", Kind::other, "otf", "sfnt", Strength::strong, 64},
    {"woff", "WOFF font", Kind::other, "woff", "woff", Strength::strong, 64},
    {"woff2", "WOFF2 font", Kind::other, "woff2", "woff2", Strength::fair, 64},
    {"class", "Java class", Kind::program, "class", "class", Strength::none, 0},
    {"outlook", "Outlook mail folder", Kind::mail, "pst ost", "outlook", Strength::none, 0},
    // clang-format on
};

struct KindRow {
    Kind kind;
    std::string_view extensions;
};
/// Where an extension belongs to several formats, the first one's kind counts: `ts` is a film before it is a
/// program's text, `doc` a document before it is a page. Where people sort a format's files in another way
/// than the format says, they are right: `odg` is a document, though a ZIP file, `msg` a mail, though OLE2,
/// `eps` a picture, though PostScript.
constexpr KindRow kind_rows[] = {
    // clang-format off
    {Kind::picture, "jpg jpeg jpe png gif bmp tif tiff webp heic heif avif psd svg raw dng cr2 cr3 nef arw orf rw2 raf ico pef srw mrw x3f crw cur psb xcf eps ai jp2"},
    {Kind::video, "mp4 m4v mov avi mkv webm wmv flv mpg mpeg mts m2ts 3gp vob ogv asf m2v ts"},
    {Kind::audio, "mp3 wav flac ogg oga opus m4a mka aac wma aif aiff mid midi amr"},
    {Kind::document, "pdf doc docx docm dot dotx xls xlsx xlsm ppt pptx odt ods odp odg rtf epub pages numbers key pub vsd vsdx indd ps mobi djvu one ole"},
    {Kind::mail, "eml mht mhtml msg mbox mbx pst ost emlx vcf ics"},
    {Kind::archive, "zip 7z rar tar gz tgz bz2 xz zst lz4 cab iso dmg arj lzh"},
    {Kind::database, "db sqlite sqlite3 db3 mdb accdb dbf fdb mdf ldf sql"},
    {Kind::program, "exe dll sys msi com bat cmd sh so elf bin apk deb rpm app py js pl rb class o ko ps1 jar"},
    {Kind::text, "txt csv tsv md log xml html htm json yaml yml ini cfg conf tex css c cpp h hpp java srt nfo rst toml bib cc gpx kml plist rss shtml text vtt xhtml xmp xsd xsl xslt"},
    // clang-format on
};

std::vector<std::string> words_of(std::string_view list) {
    std::istringstream in{std::string(list)};
    return {std::istream_iterator<std::string>(in), {}};
}

/// Every extension that these rows name.
std::set<std::string> all_extensions() {
    std::set<std::string> out;
    for (const auto& r : rows)
        for (const auto& e : words_of(r.extensions)) out.insert(e);
    return out;
}

template <class Holds>
std::string extensions_that(const Holds& holds) {
    std::string out;
    for (const auto& e : all_extensions())
        if (holds(e)) out += (out.empty() ? "" : " ") + e;
    return out;
}

}  // namespace

TEST(Rows, OfFormatsSayThis) {
    for (const auto& r : rows) {
        SCOPED_TRACE(r.word);
        const auto* f = format_named(r.word);
        ASSERT_TRUE(f);
        EXPECT_EQ(f->name, r.name);
        EXPECT_EQ(f->kind, r.kind);
        EXPECT_EQ(words_of(f->extensions), words_of(r.extensions));
        EXPECT_EQ(f->family, r.family);
        EXPECT_EQ(f->strength, r.strength);
        EXPECT_EQ(f->delay, r.delay << 10);
    }
}

TEST(Rows, GiveExtensionsTheirKinds) {
    std::set<std::string> listed;
    for (const auto& r : kind_rows) {
        for (const auto& e : words_of(r.extensions)) {
            EXPECT_EQ(kind_of_extension(e), r.kind) << e;
            EXPECT_TRUE(listed.insert(e).second) << e;
        }
    }
    for (const auto& e : all_extensions())
        EXPECT_TRUE(listed.contains(e) || kind_of_extension(e) == Kind::other) << e;
}

TEST(Rows, SayWhichExtensionsRarelyHoldZeros) {
    EXPECT_EQ(extensions_that(rarely_holds_zeros),
              "3gp 7z ai apk avif bat bib bz2 c cab cc cfg cmd conf cpp css csv docm docx dotx eml emlx epub "
              "flac gif gpx gz h heic heif hpp htm html ics ini jar java jpe jpeg jpg js json key kml log "
              "m4a m4v mbox mbx md mht mhtml mka mkv mov mp3 mp4 nfo numbers odg odp ods odt oga ogg ogv "
              "opus pages pdf pl plist png pptx ps1 py rar rb rss rst sh shtml sql srt svg tex text tgz toml "
              "tsv txt vcf vsdx vtt webm webp xhtml xlsm xlsx xml xmp xsd xsl xslt xz yaml yml zip zst");
}

TEST(Rows, SayWhatFilesOfAFormatLookLike) {
    const auto formats_that = [](const auto& holds) {
        std::string out;
        for (const auto& r : rows)
            if (holds(*format_named(r.word))) out += (out.empty() ? "" : " ") + std::string(r.word);
        return out;
    };
    const auto filled = [](Filling filling) { return [=](const Format& f) { return f.filling == filling; }; };
    EXPECT_EQ(
        formats_that(filled(Filling::dense)),
        "png jpeg gif webp heic avif mp4 m4a mov mkv webm mp3 flac ogg opus gzip bzip2 xz zstd 7z rar cab");
    EXPECT_EQ(formats_that(filled(Filling::no_zeros)), "pdf zip docx xlsx pptx odt ods odp epub jar");
    EXPECT_EQ(formats_that(filled(Filling::text)), "html svg xml eml mbox text");
    EXPECT_EQ(
        formats_that([](const Format& f) { return f.holds_files; }),
        "raw psd ico heic avif mp4 m4a mov mkv webm asf mp3 flac pdf doc xls ppt ole2 zip docx xlsx pptx odt "
        "ods odp epub jar 7z rar cab tar sqlite pe");
}

TEST(Rows, SayWhichExtensionsOthersHaveAsWell) {
    const ByteVector noise(512, 2);
    ASSERT_EQ(format_of_start(noise), nullptr);
    EXPECT_EQ(extensions_that([&](const std::string& e) {
                  return has_expected_start(e) &&
                         compare_with_extension(noise, e).agreement != Agreement::contradicts;
              }),
              "ai bmp class db doc eps ico key m4a mov mp3 mp4 mpeg mpg numbers o pages ps so vob");
}

TEST(Rows, SayWhatPairsOfBytesBeginSomething) {
    int seen = 0;
    const auto is_seen = [](int a, int b) {
        ByteVector first(512, 0x9D);
        first[0] = static_cast<std::uint8_t>(a);
        first[1] = static_cast<std::uint8_t>(b);
        return glance(first) == Glance::mark;
    };
    for (const auto& pair : words_of("0000 0001 004d 0422 1a45 1f8b 2142 2521 2550 28b5 3026 377a 3842 424d "
                                     "425a 464f 4655 4749 4944 4949 "
                                     "4d4d 4d53 4d54 4d5a 4f54 4f67 504b 5249 5261 5351 664c 7472 7474 774f "
                                     "7b5c 7f45 8950 cafe d0cf fd37 "
                                     "ffd8 ffe0 ffe1 ffe2 ffe3 ffe4 ffe5 ffe6 ffe7 ffe8 ffe9 ffea ffeb ffec "
                                     "ffed ffee ffef fff0 fff1 fff2 "
                                     "fff3 fff4 fff5 fff6 fff7 fff8 fff9 fffa fffb fffc fffd fffe ffff ")) {
        const int both = std::stoi(pair, nullptr, 16);
        EXPECT_TRUE(is_seen(both >> 8, both & 255)) << pair;
        ++seen;
    }
    // A glance is to pass over nearly all.
    int all = 0;
    for (int both = 0; both < 0x10000; ++both) all += is_seen(both >> 8, both & 255);
    EXPECT_LT(all, seen + 50);
}

}  // namespace undershelf
