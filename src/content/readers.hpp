#pragma once
// The readers there are, one file each.

#include "content/format.hpp"
#include "content/memory.hpp"

namespace undershelf::content {

const FormatReader& png();        ///< png.cpp
const FormatReader& gif();        ///< gif.cpp
const FormatReader& jpeg();       ///< jpeg.cpp
const FormatReader& webp();       ///< webp.cpp
const FormatReader& seven_zip();  ///< archive.cpp
const FormatReader& cab();        ///< archive.cpp
const FormatReader& rar();        ///< archive.cpp
const FormatReader& pdf();        ///< pdf.cpp
const FormatReader& tar();        ///< tar.cpp
const FormatReader& sqlite();     ///< sqlite.cpp
const FormatReader& gzip();       ///< gzip.cpp
const FormatReader& bzip2();      ///< bzip2.cpp
const FormatReader& xz();         ///< xz.cpp
const FormatReader& zstd();       ///< zstd.cpp
const FormatReader& zip();        ///< zip.cpp; and the documents that are archives
const FormatReader& ogg();        ///< ogg.cpp; and opus
const FormatReader& flac();       ///< flac.cpp
const FormatReader& iso_media();  ///< iso_media.cpp: mp4, m4a, mov
const FormatReader& mp3();        ///< mp3.cpp
const FormatReader& ole2();       ///< ole2.cpp: doc, xls, ppt
const FormatReader& tiff();       ///< tiff.cpp; and raw pictures built on it
const FormatReader& raw();        ///< raw.cpp: raw pictures that are not
const FormatReader& matroska();   ///< matroska.cpp: mkv, webm

const FormatReader& wav();    ///< riff.cpp
const FormatReader& avi();    ///< riff.cpp
const FormatReader& bmp();    ///< bmp.cpp
const FormatReader& heif();   ///< heif.cpp: heic, avif
const FormatReader& psd();    ///< psd.cpp
const FormatReader& ico();    ///< ico.cpp
const FormatReader& sfnt();   ///< fonts.cpp: ttf, otf
const FormatReader& woff();   ///< fonts.cpp
const FormatReader& woff2();  ///< woff2.cpp
const FormatReader& asf();    ///< asf.cpp
const FormatReader& mpeg();   ///< mpeg.cpp
const FormatReader& elf();    ///< programs.cpp
const FormatReader& pe();     ///< programs.cpp

const FormatReader& rtf();   ///< rtf.cpp
const FormatReader& xml();   ///< xml.cpp: xml, svg, and html that is declared as XML
const FormatReader& html();  ///< html.cpp
const FormatReader& eml();   ///< mail.cpp
const FormatReader& mbox();  ///< mail.cpp
const FormatReader& text();  ///< text.cpp

/// Bytes as characters.
inline std::string_view text_of(Bytes bytes) {
    return {reinterpret_cast<const char*>(bytes.data()), bytes.size()};
}
/// Does `bytes` begin with these characters?
bool begins_with(Bytes bytes, std::string_view magic);

}  // namespace undershelf::content
