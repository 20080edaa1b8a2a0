#pragma once
// Recognising formats by their first bytes, and holding them against an extension.

#include <string>
#include <string_view>

#include "base/bytes.hpp"

namespace undershelf {

/// How many bytes of a file's start recognising looks at.
constexpr std::size_t signature_bytes = 4096;

enum class Agreement {
    unknown,      ///< the extension says nothing, or too little is there to tell
    agrees,       ///< the format that belongs to the extension
    weakly,       ///< nothing speaks against it, for formats that have no signature (texts)
    contradicts,  ///< certainly another format, or none where there must be one
};

struct FirstBytes {
    Agreement agreement = Agreement::unknown;
    std::string_view format;  ///< what the bytes show, in words; empty for nothing known
};

/// The format whose signature `first` begins with, in words, empty for none. `first` is the start of a file.
std::string_view recognise_format(Bytes first);

/// The extension that a file beginning so would mostly have, lower case, no dot: by its signature, `txt` for
/// what is text throughout, empty for what tells nothing.
std::string_view usual_extension(Bytes first);

/// The extension of a name, as far as it tells what the file's content is: not where a file only keeps
/// company to another whose extension it has: what a Windows recycle bin notes of a file (`$I` and six
/// characters), and what macOS keeps beside one (AppleDouble, `._`). A short name cuts it to three letters.
/// That of an alias (`LETTER~1.DOC`) has `any_longer` at its end; that of a name as those have that know no
/// others (`LETTER.DOC`) has `maybe_longer`, where there are longer ones.
std::string content_extension(std::string_view name);

/// Holds the first bytes of a file against its extension (lower case, no dot). `first` holds the whole file
/// or at least signature_bytes of it.
FirstBytes compare_with_extension(Bytes first, std::string_view ext);

/// True for extensions whose files must begin in a certain way, or be texts.
bool has_expected_start(std::string_view ext);

/// True for formats in which long runs of zeros are unusual, so that zeros speak for lost content. Unknown
/// extensions: false.
bool rarely_holds_zeros(std::string_view ext);

/// Is a content that begins so a text, of whatever format?
bool is_text_start(Bytes first);
/// True for extensions whose whole content is text.
bool is_text_extension(std::string_view ext);

}  // namespace undershelf
