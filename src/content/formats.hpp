#pragma once
// All formats that are known: which one a content begins like, which ones an extension promises, and contents
// read by the reader of what they begin like.

#include <optional>
#include <span>

#include "content/format.hpp"

namespace undershelf {

/// All rows, in the order of content/list.hpp.
std::span<const Format> formats();
const Format* format_named(std::string_view word);

/// The format that a content begins like; null when none is sure enough. Of a family, the one that the start
/// shows. `least` is how sure that must be.
const Format* format_of_start(Bytes first, double least = sure_enough);
/// The same, with how sure that is; null and 0 for nothing known.
struct StartSeen {
    const Format* format = nullptr;
    double sure = 0;
};
StartSeen start_seen(Bytes first);
/// Does a content begin like this format, or another of its family?
bool begins_like(const Format& format, Bytes first);
/// The extension that such files usually have.
std::string_view usual_extension(const Format& format);
/// Is all of such a content characters?
bool is_text(const Format& format);
/// Is no cluster of it zeros?
bool has_no_zeros(const Format& format);
/// At the end of an extension that may be longer than is known of it: of `doc` so marked docx and docm are as
/// good. A capital, since extensions of names are folded: no name can say so of itself.
constexpr char any_longer = 'L';
/// The same, where it would be odd: nothing speaks for a longer one, but it contradicts nothing.
constexpr char maybe_longer = 'M';
/// An extension without these marks.
std::string_view written_extension(std::string_view ext);
/// Is it among the words of a list with spaces around each? Of one with `any_longer`, any that it may be.
bool lists_extension(std::string_view list, std::string_view ext);
/// Does the extension (lower case, no dot) promise the format?
bool promises(std::string_view ext, const Format& format);

/// What a check shows a content to be; null where it does not hold to its end, or the check says too little.
const Format* format_shown_by(const std::optional<Check>& check);
/// The kind of a file with this extension whose content is `shown` to be of a format, null for unknown. What
/// a content is tells more than what it is called, unless a name tells which of several things it is: a sound
/// or a film, a script or a letter.
Kind kind_of_file(std::string_view ext, const Format* shown = nullptr);

/// The reader of what a content begins with, its first 4096 bytes or all of it; null for none that is sure.
const FormatReader* reader_for(Bytes first);

/// The reader of contents of this format; null where it has none.
const FormatReader* reader_of(const Format& format);

// In this process: `content/reading.hpp` is how others ask.

/// Checks a content with the reader of what it begins with; nothing where no reader knows that.
std::optional<Check> check_content(Content& content, const CheckLimits& limits = {});

/// What a content without a name tells of itself.
struct Inside {
    std::string title;
    ContentDetails details;
    InnerDates dates;
    std::string extension;  ///< the usual one
};
Inside content_inside(Content& content, const Format& format);

/// The text of a content, by the reader of what it begins with. Within the bounds that `take` sets.
void content_text(Content& content, const TakeText& take);
/// What it is made of, line by line, in the same way.
void content_outline(Content& content, const TakeText& take);

}  // namespace undershelf
