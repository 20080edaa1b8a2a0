#include "decoder/drawn_content.hpp"

#include <sys/time.h>

#include <algorithm>
#include <charconv>

#include "content/formats.hpp"
#include "content/memory.hpp"
#include "content/picture/embedded.hpp"

namespace undershelf {

using namespace content;
using drawing::Module;
using drawing::Wanted;

namespace {

constexpr std::uint64_t drawing_memory = 224 << 20;     ///< bytes: two at a time within what all may have
constexpr int picture_seconds = 5, page_seconds = 120;  ///< of computing
constexpr double shows_enough = 0.5;  ///< of a picture: of less, a small one that is whole tells more

/// Whoever computes for longer is ended by SIGPROF.
class TimeBound {
  public:
    explicit TimeBound(int seconds) { set(seconds); }
    ~TimeBound() { set(0); }
    TimeBound(const TimeBound&) = delete;
    TimeBound& operator=(const TimeBound&) = delete;

  private:
    static void set(int seconds) {
        const itimerval bound{{}, {seconds, 0}};
        ::setitimer(ITIMER_PROF, &bound, nullptr);
    }
};

Wanted wanted_in(const Request& request) {
    return {std::clamp(request.pixels, 16u, 8192u), request.form,
            request.most_output ? request.most_output : ~0ull};
}

drawing::TakeFile into(std::string& file) {
    return [&file](std::string_view piece) {
        file += piece;
        return false;
    };
}

std::uint64_t pixels_of(Content& jpeg) {
    const auto* reader = reader_of(*format_named("jpeg"));
    const auto text = reader->details(jpeg).pixels;
    std::uint64_t width = 0, height = 0;
    const auto [cross, ec] = std::from_chars(text.data(), text.data() + text.size(), width);
    if (ec != std::errc{} || cross == text.data() + text.size()) return 0;
    std::from_chars(cross + 1, text.data() + text.size(), height);
    return width * height;
}

/// The largest JPEG picture in a content that can be drawn whole.
Drawn drawn_embedded(const Module& module, const FormatReader& reader, bool raw, int orientation,
                     Content& content, const Wanted& wanted, std::string& file) {
    Drawn best;
    std::uint64_t most = 0;
    int tried = 0;
    embedded_jpegs(reader, raw, content, [&](Content& jpeg) {
        constexpr int most_tried = 24;
        const auto pixels = pixels_of(jpeg);
        if (pixels > most) {
            std::string drawn;
            const UsualMemory memory(drawing_memory);
            const auto came = module.content(jpeg, "jpeg", orientation, wanted, into(drawn));
            if (came.shows == Shows::whole) {
                best = came;
                most = pixels;
                file = std::move(drawn);
            }
        }
        return ++tried >= most_tried;
    });
    if (best.shows != Shows::nothing) best.shows = Shows::embedded;
    return best;
}

/// Markup leaves many where it had structure.
std::string without_blank_lines(std::string_view text) {
    std::string out;
    while (!text.empty()) {
        const auto end = std::min(text.find('\n'), text.size());
        const auto line = text.substr(0, end);
        const bool blank = line.find_first_not_of(" \t\r") == line.npos;
        if (!blank) (out += line) += '\n';
        // One between paragraphs.
        if (blank && !out.empty() && !out.ends_with("\n\n")) out += '\n';
        text.remove_prefix(std::min(end + 1, text.size()));
    }
    return out;
}

Drawn drawn_lines(const Module& module, const Format& format, Content& content, const Wanted& wanted,
                  std::string& file) {
    constexpr std::size_t enough = 8 << 10;
    std::string text;
    const auto take = [&](std::string_view piece) {
        text += piece.substr(0, enough);
        return text.size() >= enough;
    };
    const bool made_of_parts =
        format.kind == Kind::archive || format.kind == Kind::database || format.kind == Kind::program;
    if (made_of_parts) content_outline(content, take);
    if (text.empty()) content_text(content, take);
    text = without_blank_lines(text);
    if (text.empty()) {
        Drawn out;
        out.why = "neither a picture nor a text is found in it";
        return out;
    }
    const UsualMemory memory(drawing_memory);
    return module.text(text, wanted, into(file));
}

}  // namespace

Drawn drawn_content(const Module& module, Content& content, const Request& request, std::string& file) {
    const auto* format = format_named(request.format);
    Drawn out;
    if (!format) return out;
    const auto wanted = wanted_in(request);
    try {
        const TimeBound time(picture_seconds);
        // Raw pictures of most makers begin as TIFF files do.
        Cursor start(content);
        const auto* begins_like = reader_for(start.peek(4096));
        const auto* reader = begins_like ? begins_like : reader_of(*format);
        const bool raw = format->word == "raw";
        const int orientation = reader ? orientation_of(*reader, content) : 1;
        if (module.knows(format->word)) {
            const UsualMemory memory(drawing_memory);
            out = module.content(content, format->word, orientation, wanted, into(file));
        }
        const bool shown =
            out.shows != Shows::nothing && (out.shows != Shows::part || out.share >= shows_enough);
        if (shown || !reader) return out;
        std::string other;
        auto embedded = drawn_embedded(module, *reader, raw, orientation, content, wanted, other);
        if (embedded.shows == Shows::nothing && !module.knows(format->word) && !raw)
            embedded = drawn_lines(module, *format, content, wanted, other);
        if (out.shows == Shows::nothing && out.why.empty()) out.why = embedded.why;
        if (embedded.shows != Shows::nothing) {
            if (embedded.shows == Shows::embedded && !raw)
                embedded.why = "little of the picture itself can be decoded";
            out = embedded;
            file = std::move(other);
        }
    } catch (const std::bad_alloc&) {
        file.clear();
        out = {};
        out.why = "it takes more memory than drawing may have";
    }
    if (out.shows == Shows::nothing && out.why.empty())
        out.why = format->word == "raw" ? "no picture for viewers is kept in it"
                                        : "contents of its format are not drawn";
    return out;
}

Drawn drawn_page(const Module& module, Content& description, const Request& request, std::string& file) {
    Drawn out;
    try {
        const UsualMemory memory(drawing_memory);
        const TimeBound time(page_seconds);
        if (module.page(description, wanted_in(request), into(file))) out.shows = Shows::whole;
    } catch (const std::bad_alloc&) {
        out.why = "it takes more memory than drawing may have";
    }
    if (out.shows == Shows::nothing) file.clear();
    return out;
}

}  // namespace undershelf
