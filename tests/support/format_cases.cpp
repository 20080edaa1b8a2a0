#include "support/format_cases.hpp"

namespace undershelf::test {

namespace {
ByteVector text() {
    return libretto(9000);
}
}  // namespace

const std::vector<FormatCase>& format_cases() {
    static const std::vector<FormatCase> all{
        {"png", png_file},
        {"gif", gif_file, Strength::fair, 0.3},
        {"gzip", [] { return gzip_file(text()); }},
        {"bzip2", [] { return bzip2_file(text()); }},
        {"xz", [] { return xz_file(text()); }},
        {"zstd", [] { return zstd_file(text()); }},
        {"zstd", [] { return zstd_file(text(), false); }, Strength::weak, 0.1},
        {"ogg", ogg_file},
        {"jpeg", jpeg_file, Strength::fair, 0.2},
        {"webp", webp_file, Strength::fair, 0.02},
        {"pdf", pdf_file, Strength::fair, 0.7},
        {"tar", [] { return tar_file(); }, Strength::weak, 0.1, 3072},
        {"tar", [] { return tar_file({.holes = true}); }, Strength::weak, 0.1, 512},
        {"tar", [] { return tar_file({.extended = true}); }, Strength::weak, 0.1, 512},
        {"sqlite", sqlite_file, Strength::fair, 0.1},
        {"7z", [] { return seven_zip_file(); }},
        {"7z", [] { return seven_zip_file(false); }},
        {"cab", cab_file, Strength::fair, 0.95},
        {"rar", rar_file, Strength::weak, 0.1},
        {"flac", flac_file, Strength::fair, 0.9},
        {"zip",
         [] {
             return zip_file({{"cue sheet.csv", text()}, {"poster.txt", text(), false}});
         },
         Strength::strong, 0.95},
        {"zip",
         [] {
             return zip_file({{"cue sheet.csv", text(), true, true}, {"act 2.csv", text(), true, true}});
         },
         Strength::strong, 0.95},
        {"docx",
         [] {
             return zip_file({{"[Content_Types].xml", text()}, {"word/document.xml", text()}});
         },
         Strength::strong, 0.95},
        {"odt",
         [] {
             const std::string type = "application/vnd.oasis.opendocument.text";
             return zip_file({{"content.xml", text()}, {"mimetype", {type.begin(), type.end()}}});
         },
         Strength::strong, 0.95},
        {"mp4", [] { return mp4_file(); }, Strength::fair, 0.02},
        {"mp4", [] { return mp4_file({.index_first = true}); }, Strength::fair, 0.02},
        {"mp4", [] { return mp4_file({.fragments = true}); }, Strength::fair, 0.02},
        {"mp4", [] { return mp4_file({.unit = 9000}); }, Strength::weak, 0},
        {"m4a", [] { return mp4_file({.sound_alone = true}); }, Strength::fair, 0.3},
        {"mov", mov_file, Strength::fair, 0.1},
        {"mkv", [] { return matroska_file(true); }, Strength::fair, 0.95},
        {"mkv", [] { return matroska_file(false); }, Strength::fair, 0.02},
        {"mkv", [] { return matroska_file(false, Blocks::grouped); }, Strength::fair, 0.02},
        {"webm", [] { return matroska_file(false, Blocks::laced, "webm"); }, Strength::fair, 0.02},
        {"mp3", [] { return mp3_file(); }, Strength::fair, 0.005},
        {"doc", doc_file, Strength::weak, 0.05},
        {"xls", xls_file, Strength::weak, 0.03},
        {"ppt", ppt_file, Strength::fair, 0.1, 511},
        {"ole2",
         [] {
             return compound_file({{"Prompt", libretto(5000)}});
         },
         Strength::weak, 0.03, 511},
        {"tiff", [] { return tiff_file(); }, Strength::fair, 0.6},
        {"tiff", [] { return tiff_file({.big_endian = true}); }, Strength::fair, 0.6},
        {"tiff", [] { return tiff_file({.deflated = false}); }, Strength::weak, 0.01},
        {"raw", [] { return tiff_file({.deflated = false, .photometric = 32803}); }, Strength::weak, 0.01},
        {"raw", raf_file, Strength::weak, 0.1},
        {"raw", mrw_file, Strength::weak, 0.001},
        {"heic", [] { return heif_file(); }, Strength::fair, 0.015},
        {"avif", [] { return heif_file(true); }, Strength::weak, 0.005},
        {"wav", wav_file, Strength::weak, 0.005},
        {"avi", [] { return avi_file(); }, Strength::fair, 0.015},
        {"avi", [] { return avi_file(12000); }, Strength::weak, 0},
        {"bmp", bmp_file, Strength::weak, 0.001},
        {"psd", psd_file, Strength::fair, 0.02},
        {"ico", ico_file, Strength::fair, 0.9},
        {"ttf", [] { return font_file(); }, Strength::strong, 0.95},
        {"otf", [] { return font_file(true); }, Strength::strong, 0.95},
        {"woff", [] { return woff_file(); }, Strength::fair, 0.95},
        {"woff2", woff2_file, Strength::fair, 0.55},
        {"asf", asf_file, Strength::weak, 0.04},
        {"mpeg", [] { return program_stream(); }, Strength::fair, 0.02},
        {"rtf", rtf_file, Strength::fair, 0.05},
        {"xml", [] { return xml_file(); }, Strength::fair, 0.2, 1},
        {"svg", [] { return xml_file("svg xmlns=\"http://www.w3.org/2000/svg\""); }, Strength::fair, 0.2, 1},
        {"elf", elf_file, Strength::weak, 0.001},
        {"pe", pe_file, Strength::weak, 0.001},
        {"jar",
         [] {
             return zip_file({{"META-INF/MANIFEST.MF", text()}});
         },
         Strength::strong, 0.95},
    };
    return all;
}

}  // namespace undershelf::test
