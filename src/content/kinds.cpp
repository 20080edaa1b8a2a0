#include "content/kinds.hpp"

#include <algorithm>
#include <array>
#include <string>
#include <unordered_map>

namespace undershelf {

namespace {
constexpr std::array<std::string_view, 11> words{"other",    "picture", "video",   "audio",
                                                 "document", "mail",    "archive", "database",
                                                 "program",  "text",    "link"};

struct KindList {
    Kind kind;
    std::string_view extensions;
};
constexpr KindList lists[] = {
    {Kind::picture,
     "jpg jpeg jpe png gif bmp tif tiff webp heic heif avif psd svg raw dng cr2 cr3 nef arw orf rw2 raf ico "
     "pef srw mrw x3f crw cur psb xcf eps ai jp2"},
    {Kind::video, "mp4 m4v mov avi mkv webm wmv flv mpg mpeg mts m2ts 3gp vob ogv asf m2v"},
    {Kind::audio, "mp3 wav flac ogg oga opus m4a mka aac wma aif aiff mid midi amr"},
    {Kind::document,
     "pdf doc docx docm dot dotx xls xlsx xlsm ppt pptx odt ods odp odg rtf epub pages numbers key pub vsd "
     "vsdx indd ps mobi djvu one"},
    {Kind::mail, "eml mht mhtml msg mbox mbx pst ost emlx vcf ics"},
    {Kind::archive, "zip 7z rar tar gz tgz bz2 xz zst lz4 cab iso dmg arj lzh jar"},
    {Kind::database, "db sqlite sqlite3 db3 mdb accdb dbf fdb mdf ldf sql"},
    {Kind::program, "exe dll sys msi com bat cmd sh so elf bin apk deb rpm app py js pl rb class o ko ps1"},
    {Kind::text,
     "txt csv tsv md log xml html htm json yaml yml ini cfg conf tex css c cpp h hpp java srt nfo rst toml"},
};

const std::unordered_map<std::string_view, Kind>& table() {
    static const auto built = [] {
        std::unordered_map<std::string_view, Kind> out;
        for (const auto& [kind, extensions] : lists) {
            for (std::size_t at = 0; at < extensions.size();) {
                const auto end = std::min(extensions.find(' ', at), extensions.size());
                out.emplace(extensions.substr(at, end - at), kind);
                at = end + 1;
            }
        }
        return out;
    }();
    return built;
}
}  // namespace

std::string_view word(Kind kind) {
    return words[static_cast<std::size_t>(kind)];
}

std::optional<Kind> kind_from_word(std::string_view text) {
    const auto it = std::find(words.begin(), words.end(), text);
    if (it == words.end()) return std::nullopt;
    return static_cast<Kind>(it - words.begin());
}

Kind kind_of_extension(std::string_view ext) {
    const auto it = table().find(ext);
    return it == table().end() ? Kind::other : it->second;
}

}  // namespace undershelf
