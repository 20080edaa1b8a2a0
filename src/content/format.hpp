#pragma once
// The one interface of all formats' readers: is this content one of mine, where does it
// end, does it hold to that end, and how strongly could that be checked? And the rows that say all else of
// the formats. A new format is a file with its reader and its rows, and its name in content/list.hpp.

#include <functional>
#include <optional>
#include <span>
#include <string>
#include <string_view>
#include <vector>

#include "content/content.hpp"
#include "content/dates.hpp"
#include "content/details.hpp"
#include "content/kinds.hpp"

namespace undershelf {

/// How much a check that passed says of a file.
enum class Strength : std::uint8_t {
    none = 0,    ///< it could not be checked
    weak = 1,    ///< heads, ends and lengths agree; of the middle nothing is known
    fair = 2,    ///< it decodes to its end without error, or every structure is where the others say
    strong = 3,  ///< checksums over nearly all of its bytes
};

/// The share of a file's bytes, one in so many, that may be changed without being noticed where a check is to
/// be `strong`.
constexpr std::uint64_t strong_but_for = 200;
/// Where more than that of `size` bytes is covered by nothing, a check is fair at best.
constexpr Strength strong_unless(std::uint64_t uncovered, std::uint64_t size) {
    return uncovered > size / strong_but_for ? Strength::fair : Strength::strong;
}

/// What a check came to. Everything before `holds_to` is consistent with being one file.
struct Check {
    std::string_view format;  ///< a word of formats(): told by what is inside, where several share a start
    Strength strength = Strength::none;  ///< of this very file
    bool complete = false;               ///< its structure ends at holds_to
    bool cut = false;                    ///< nothing contradicts: it goes on after the content's end
    /// What is wrong is in its first sector, beside its mark. Drives write whole sectors: it was written so.
    bool odd_head = false;
    bool loose_end = false;  ///< the next byte may be its own, or filling: nothing tells
    bool finished = true;    ///< false where a bound on time or memory ended the check
    std::uint64_t holds_to = 0;
    std::uint64_t proven_to = 0;  ///< bytes up to which checksums prove nearly all
    /// Where it was noticed that something is wrong, if that is told more closely than holds_to; else 0.
    std::uint64_t noticed_at = 0;
    std::string why;    ///< what is wrong at holds_to, as the end of a sentence; empty where nothing is
    std::string title;  ///< what it calls itself inside; empty for nothing known
    ContentDetails details;

    Check& fails(std::uint64_t at, std::string reason) {
        holds_to = at;
        complete = false;
        why = std::move(reason);
        return *this;
    }
    Check& ends(std::uint64_t at) {
        holds_to = at;
        complete = true;
        return *this;
    }
};

/// The most that one check may cost; what is larger is left unfinished.
struct CheckLimits {
    std::uint64_t most_output = 8ull << 30;  ///< bytes that decoders give out; they are not kept
    /// Bytes in which something is searched for whose place is not told: as many as there are, where the
    /// content's size says how long it is.
    std::uint64_t most_searched = ~0ull;
    bool title = true;  ///< a title and details are wanted as well
};

/// What decoders have given out of one content. What grows beyond all measure when it is unpacked is no file
/// that anybody would miss, and takes as long as somebody likes.
class OutputBound {
  public:
    static constexpr std::uint64_t ratio = 256, always = 16 << 20;

    explicit OutputBound(std::uint64_t most) : most_(most) {}
    /// `output` more bytes came out, of `input` bytes of the content in all. False when that is enough.
    bool add(std::uint64_t output, std::uint64_t input) {
        used_ += output;
        return used_ <= most_ && used_ / ratio <= always / ratio + input;
    }

  private:
    std::uint64_t most_, used_ = 0;
};
/// Why such a check ended.
constexpr const char* yields_too_much = "it grows so much when it is unpacked that it is read no further";

/// What a content begins like.
struct Recognised {
    std::string_view format;  ///< a word of formats(), as far as the start tells
    double sure = 0;          ///< 0 to 1
};

/// How sure one must be of a format to name it.
constexpr double sure_enough = 0.8;
/// How sure a reader is that tells its format by statistics alone: everything with a start comes first.
constexpr double sure_of_text = 0.8;

/// Takes text, UTF-8, piece by piece; says whether it has enough.
using TakeText = std::function<bool(std::string_view)>;

class FormatReader {
  public:
    virtual ~FormatReader() = default;
    /// Of a content that begins with these bytes (its first 4096, or all of it).
    virtual Recognised recognise(Bytes first) const = 0;
    /// Reads `content` from its start to the end that its structure tells. What is after that end is
    /// nobody's business here. Bytes that are missing end the check like the content's end.
    virtual Check check(Content& content, const CheckLimits& limits) const = 0;
    /// What it calls itself inside: UTF-8, one line, 120 bytes at most; empty for nothing known. Nothing is
    /// held against a checksum for it.
    virtual std::string title(Content&) const { return {}; }
    /// The dates that are in it.
    virtual InnerDates dates(Content&) const { return {}; }
    /// What it tells of itself beside its title.
    virtual ContentDetails details(Content&) const { return {}; }
    /// The extension that such a file usually has, where it is not the first of its format's.
    virtual std::string_view extension(Content&) const { return {}; }
    /// Gives out the text that is in it, as far as it is read; none where it holds no text.
    virtual void text(Content&, const TakeText&) const {}
    /// Gives out what it is made of, a line each: an archive's members, a database's tables, what a program
    /// is. None where people see more in the picture or the text of it.
    virtual void outline(Content&, const TakeText&) const {}
    /// Gives the TIFF file that has a picture's Exif data (Exif 2.3, 4.5): its own, or one in it.
    virtual void exif(Content&, const std::function<void(Content& tiff)>&) const {}
    /// It reads with nothing but our own code, and need not run in a process of its own.
    virtual bool all_our_own() const { return false; }
};

/// Bytes that all files of a format begin with.
struct Start {
    std::size_t at = 0;
    std::string_view magic;
    std::size_t more_at = 0;
    std::string_view more = {};
};

/// What the clusters of a format's files look like, but for the last.
enum class Filling : std::uint8_t {
    any,       ///< nothing is known
    text,      ///< characters throughout
    no_zeros,  ///< packed, with lists between: none is zeros
    dense,     ///< packed throughout: none is zeros, none looks like text
};

/// Extensions that promise a format, and are sorted under another kind.
struct OtherKind {
    Kind kind{};
    std::string_view extensions;  ///< with spaces around each
};

/// All that is to be known of a format beside how it is read. Lists of extensions are lower case, without
/// dots, with spaces around each.
struct Format {
    std::string_view word;  ///< as lists name it: `jpeg`, `docx`
    std::string_view name;  ///< in a sentence: `JPEG picture`
    Kind kind{};
    std::string_view extensions;             ///< those that promise it, the usual one first
    std::span<const OtherKind> others = {};  ///< of these, those of other kinds
    /// Of these, those that other formats have as well which are not known here: that a file begins like none
    /// that is known does not contradict them.
    std::string_view shared = {};
    /// Formats of one family begin alike: what is inside tells them apart.
    std::string_view family;
    Strength strength = Strength::none;  ///< the most that a check of it says
    /// Bytes: how far after the first wrong byte a check may say that it holds. 0 where it says so earlier.
    std::uint64_t delay = 0;
    Filling filling = Filling::any;
    bool holds_files =
        false;  ///< whole files as they are, so that what holds within one need be none of its own
    /// The first two bytes of such files: as many pairs as there are, one after the other; or what `starts`
    /// or FormatRows::glimpse say. A text's may be any.
    std::string_view marks = {};
    std::span<const Start> starts = {};  ///< of formats without a reader
};

constexpr std::uint64_t KiB = 1024;

/// What one reader's file brings.
struct FormatRows {
    std::span<const Format> formats;
    const FormatReader* reader = nullptr;  ///< none where formats are known by their starts alone
    /// For those that have no marks: might a content begin so? Asked of millions of places. `first` is its
    /// first 512 bytes, or all of it.
    bool (*glimpse)(Bytes first) = nullptr;
};

std::string_view word(Strength strength);
std::optional<Strength> strength_from_word(std::string_view text);

}  // namespace undershelf
