#pragma once
// The list of formats: what a new one adds to, beside its own file.

#include "content/format.hpp"

namespace undershelf::content {

FormatRows png_formats();         ///< picture/png.cpp
FormatRows jpeg_formats();        ///< picture/jpeg.cpp
FormatRows gif_formats();         ///< picture/gif.cpp
FormatRows webp_formats();        ///< picture/webp.cpp
FormatRows tiff_formats();        ///< picture/tiff.cpp
FormatRows raw_formats();         ///< picture/raw.cpp
FormatRows psd_formats();         ///< picture/psd.cpp
FormatRows bmp_formats();         ///< picture/bmp.cpp
FormatRows ico_formats();         ///< picture/ico.cpp
FormatRows heif_formats();        ///< picture/heif.cpp
FormatRows iso_media_formats();   ///< media/iso_media.cpp
FormatRows matroska_formats();    ///< media/matroska.cpp
FormatRows avi_formats();         ///< media/riff.cpp
FormatRows asf_formats();         ///< media/asf.cpp
FormatRows mpeg_formats();        ///< media/mpeg.cpp
FormatRows mp3_formats();         ///< media/mp3.cpp
FormatRows flac_formats();        ///< media/flac.cpp
FormatRows amr_formats();         ///< media/amr.cpp
FormatRows ogg_formats();         ///< media/ogg.cpp
FormatRows wav_formats();         ///< media/riff.cpp
FormatRows aiff_formats();        ///< unread.cpp
FormatRows midi_formats();        ///< unread.cpp
FormatRows pdf_formats();         ///< document/pdf.cpp
FormatRows postscript_formats();  ///< unread.cpp
FormatRows ole2_formats();        ///< document/ole2.cpp
FormatRows rtf_formats();         ///< document/rtf.cpp
FormatRows html_formats();        ///< text/html.cpp
FormatRows xml_formats();         ///< text/xml.cpp
FormatRows eml_formats();         ///< text/mail.cpp
FormatRows mbox_formats();        ///< text/mail.cpp
FormatRows text_formats();        ///< text/text.cpp
FormatRows zip_formats();         ///< archive/zip.cpp
FormatRows gzip_formats();        ///< archive/gzip.cpp
FormatRows bzip2_formats();       ///< archive/bzip2.cpp
FormatRows xz_formats();          ///< archive/xz.cpp
FormatRows zstd_formats();        ///< archive/zstd.cpp
FormatRows lz4_formats();         ///< unread.cpp
FormatRows seven_zip_formats();   ///< archive/archive.cpp
FormatRows rar_formats();         ///< archive/archive.cpp
FormatRows cab_formats();         ///< archive/archive.cpp
FormatRows tar_formats();         ///< archive/tar.cpp
FormatRows sqlite_formats();      ///< other/sqlite.cpp
FormatRows access_formats();      ///< unread.cpp
FormatRows elf_formats();         ///< other/programs.cpp
FormatRows pe_formats();          ///< other/programs.cpp
FormatRows sfnt_formats();        ///< other/fonts.cpp
FormatRows woff_formats();        ///< other/fonts.cpp
FormatRows woff2_formats();       ///< other/woff2.cpp
FormatRows java_class_formats();  ///< unread.cpp
FormatRows outlook_formats();     ///< unread.cpp

/// In the order in which lists show them. Where two are as sure of a start, the first has it.
// clang-format off
constexpr FormatRows (*all_formats[])() = {
    png_formats,
    jpeg_formats,
    gif_formats,
    webp_formats,
    tiff_formats,
    raw_formats,
    psd_formats,
    bmp_formats,
    ico_formats,
    heif_formats,
    iso_media_formats,
    matroska_formats,
    avi_formats,
    asf_formats,
    mpeg_formats,
    mp3_formats,
    flac_formats,
    amr_formats,
    ogg_formats,
    wav_formats,
    aiff_formats,
    midi_formats,
    pdf_formats,
    postscript_formats,
    ole2_formats,
    rtf_formats,
    html_formats,
    xml_formats,
    eml_formats,
    mbox_formats,
    text_formats,
    zip_formats,
    gzip_formats,
    bzip2_formats,
    xz_formats,
    zstd_formats,
    lz4_formats,
    seven_zip_formats,
    rar_formats,
    cab_formats,
    tar_formats,
    sqlite_formats,
    access_formats,
    elf_formats,
    pe_formats,
    sfnt_formats,
    woff_formats,
    woff2_formats,
    java_class_formats,
    outlook_formats,
};
// clang-format on

}  // namespace undershelf::content
