// Formats that nobody here reads yet: they are known by their starts alone.

#include "content/list.hpp"

namespace undershelf::content {

namespace {

using namespace std::string_view_literals;

constexpr Start aiff_start[] = {{0, "FORM"sv, 8, "AIF"sv}};
constexpr Format aiff[] = {
    {.word = "aiff",
     .name = "AIFF sound",
     .kind = Kind::audio,
     .extensions = " aif aiff ",
     .family = "aiff",
     .starts = aiff_start},
};

constexpr Start midi_start[] = {{0, "MThd"sv}};
constexpr Format midi[] = {
    {.word = "midi",
     .name = "MIDI sound",
     .kind = Kind::audio,
     .extensions = " mid midi ",
     .family = "midi",
     .starts = midi_start},
};

constexpr Start postscript_start[] = {{0, "%!PS"sv}};
constexpr OtherKind postscript_pictures[] = {{Kind::picture, " eps ai "}};
constexpr Format postscript[] = {
    {.word = "postscript",
     .name = "PostScript document",
     .kind = Kind::document,
     .extensions = " ps eps ai ",
     .others = postscript_pictures,
     .shared = " ps eps ",
     .family = "postscript",
     .starts = postscript_start},
};

constexpr Start lz4_start[] = {{0, "\x04\x22\x4d\x18"sv}};
constexpr Format lz4[] = {
    {.word = "lz4",
     .name = "LZ4 archive",
     .kind = Kind::archive,
     .extensions = " lz4 ",
     .family = "lz4",
     .starts = lz4_start},
};

constexpr Start access_start[] = {{4, "Standard Jet DB\0"sv}, {4, "Standard ACE DB\0"sv}};
constexpr Format access[] = {
    {.word = "access",
     .name = "Access database",
     .kind = Kind::database,
     .extensions = " mdb accdb ",
     .family = "access",
     .starts = access_start},
};

constexpr Start java_class_start[] = {{0, "\xca\xfe\xba\xbe"sv}};
constexpr Format java_class[] = {
    {.word = "class",
     .name = "Java class",
     .kind = Kind::program,
     .extensions = " class ",
     .shared = " class ",
     .family = "class",
     .starts = java_class_start},
};

constexpr Start outlook_start[] = {{0, "!BDN"sv}};
constexpr Format outlook[] = {
    {.word = "outlook",
     .name = "Outlook mail folder",
     .kind = Kind::mail,
     .extensions = " pst ost ",
     .family = "outlook",
     .starts = outlook_start},
};

}  // namespace

FormatRows aiff_formats() {
    return {aiff};
}
FormatRows midi_formats() {
    return {midi};
}
FormatRows postscript_formats() {
    return {postscript};
}
FormatRows lz4_formats() {
    return {lz4};
}
FormatRows access_formats() {
    return {access};
}
FormatRows java_class_formats() {
    return {java_class};
}
FormatRows outlook_formats() {
    return {outlook};
}

}  // namespace undershelf::content
