#pragma once
// The one interface behind which every format's reader stands: is this content one of mine, where does it
// end, does it hold to that end, and how strongly could that be checked? A new format is a file in content/
// and a row in formats.cpp.

#include <functional>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "content/content.hpp"
#include "content/dates.hpp"

namespace undershelf {

/// How much a check that passed says of a file.
enum class Strength : std::uint8_t {
    none = 0,    ///< it could not be checked
    weak = 1,    ///< heads, ends and lengths agree; of the middle nothing is known
    fair = 2,    ///< it decodes to its end without error, or every structure stands where the others say
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
    std::string_view
        format;  ///< a word of formats(): told by what stands inside, where several share a start
    Strength strength = Strength::none;  ///< of this very file
    bool complete = false;               ///< its structure ends at holds_to
    bool cut = false;                    ///< nothing contradicts: it goes on behind the content's end
    bool odd_head =
        false;  ///< what is wrong stands in its first 512 bytes, beside its mark: so it was written
    bool loose_end = false;  ///< the next byte may be its own, or filling: nothing tells
    bool finished = true;    ///< false where a bound on time or memory ended the check
    std::uint64_t holds_to = 0;
    std::uint64_t proven_to = 0;  ///< bytes up to which checksums prove nearly all
    std::string why;    ///< what is wrong at holds_to, as the end of a sentence; empty where nothing is
    std::string title;  ///< what it calls itself inside; empty for nothing known

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
    bool title = true;  ///< a title is wanted as well
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

/// How sure a reader is that tells its format by statistics alone: everything with a start comes first.
constexpr double sure_of_text = 0.8;

/// Takes text, UTF-8, piece by piece; says whether it has enough.
using TakeText = std::function<bool(std::string_view)>;

class FormatReader {
  public:
    virtual ~FormatReader() = default;
    /// Of a content that begins with these bytes (its first 4096, or all of it).
    virtual Recognised recognise(Bytes first) const = 0;
    /// Reads `content` from its start to the end that its structure tells. What stands behind that end is
    /// nobody's business here. Bytes that are missing end the check like the content's end.
    virtual Check check(Content& content, const CheckLimits& limits) const = 0;
    /// What it calls itself inside: UTF-8, one line, 120 bytes at most; empty for nothing known. Nothing is
    /// held against a checksum for it.
    virtual std::string title(Content&) const { return {}; }
    /// The dates that stand in it.
    virtual InnerDates dates(Content&) const { return {}; }
    /// The extension that such a file usually has, where it is not the first of its format's.
    virtual std::string_view extension(Content&) const { return {}; }
    /// Gives out the text that stands in it, as far as it is read; none where it holds no text.
    virtual void text(Content&, const TakeText&) const {}
    /// Its decoder is trusted less, and better runs in a process of its own.
    virtual bool runs_apart() const { return false; }
};

class DecodersApart;
struct Format;
/// Checks a content with the reader of what it begins with; nothing when there is none. Decoders that are
/// trusted less run `apart` where that is given.
std::optional<Check> check_content(Content& content, const CheckLimits& limits = {},
                                   DecodersApart* apart = nullptr);

/// What a content without a name tells of itself.
struct Inside {
    std::string title;
    InnerDates dates;
    std::string_view extension;  ///< the usual one
};
Inside content_inside(Content& content, const Format& format);

/// The text of a content, by the reader of what it begins with. Within the bounds that `take` sets.
void content_text(Content& content, const TakeText& take);

std::string_view word(Strength strength);
std::optional<Strength> strength_from_word(std::string_view text);

}  // namespace undershelf
