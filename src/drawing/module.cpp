#include "drawing/module.hpp"

#include <algorithm>
#include <iterator>
#include <new>

#include "drawing/decoders.hpp"
#include "drawing/page.hpp"
#include "drawing/surface.hpp"
#include "drawing/writing.hpp"

namespace undershelf::drawing {

ByteVector all_of(Content& content, std::uint64_t most) {
    if (content.size() > most) throw Undrawable{"it is larger than what is drawn"};
    ByteVector out(static_cast<std::size_t>(content.size()));
    out.resize(content.read(0, out));
    return out;
}

namespace {

struct Way {
    std::string_view format;  ///< a word of formats()
    Picture (*draw)(Content&, std::uint32_t);
};
constexpr Way ways[] = {
    {"jpeg", draw_jpeg},  {"png", draw_png},   {"gif", draw_gif},   {"tiff", draw_tiff},  {"webp", draw_webp},
    {"heic", draw_heif},  {"avif", draw_heif}, {"svg", draw_svg},   {"bmp", draw_bmp},    {"ico", draw_ico},
    {"psd", draw_psd},    {"mp4", draw_film},  {"mov", draw_film},  {"mkv", draw_film},   {"webm", draw_film},
    {"avi", draw_film},   {"asf", draw_film},  {"mpeg", draw_film}, {"m4a", draw_sound},  {"mp3", draw_sound},
    {"flac", draw_sound}, {"amr", draw_sound}, {"ogg", draw_sound}, {"opus", draw_sound}, {"wav", draw_sound},
    {"aiff", draw_sound}, {"pdf", draw_pdf},   {"ttf", draw_font},  {"otf", draw_font},   {"woff", draw_font},
    {"woff2", draw_font},
};

const Way* way_of(std::string_view format) {
    const auto* const it =
        std::find_if(std::begin(ways), std::end(ways), [&](const Way& w) { return w.format == format; });
    return it == std::end(ways) ? nullptr : it;
}

void prepare() {
    // Fonts are looked for, and those for most scripts opened, while files can be.
    const auto surface = new_surface(64, 64);
    const auto pen = pen_on(surface);
    for (const char* const font : {"Sans 12px", "Sans Bold 12px"})
        write_at(pen.get(), written(pen.get(), "Aa1 \u00e4 \u0416 \u03a9 \u05d0 \u0639 \u4e2d \u3042", font),
                 0, 0);
}

void write(const Surface& surface, const Wanted& wanted, const TakeFile& take) {
    wanted.form == PictureForm::jpeg ? write_jpeg(surface, wanted.most_bytes, take)
                                     : write_png(surface, take);
}

Drawn drawn(const Picture& picture, const Wanted& wanted, const TakeFile& take) {
    constexpr double hardly_any = 0.01;
    if (picture.share < hardly_any) throw Undrawable{"its first rows are damaged"};
    Drawn out;
    out.width = picture.on_side() ? picture.full_height : picture.full_width;
    out.height = picture.on_side() ? picture.full_width : picture.full_height;
    out.share = std::clamp(picture.share, 0.0, 1.0);
    out.shows = picture.shows == Shows::whole && out.share < 1 ? Shows::part : picture.shows;
    out.why = picture.why;
    write(finished(picture, wanted.pixels), wanted, take);
    return out;
}

Drawn content(Content& content, std::string_view format, int orientation, const Wanted& wanted,
              const TakeFile& take) {
    Drawn out;
    const auto* way = way_of(format);
    if (!way) return out;
    try {
        auto picture = way->draw(content, wanted.pixels);
        if (picture.orientation == 0) picture.orientation = orientation;
        return drawn(picture, wanted, take);
    } catch (const Undrawable& u) {
        out.why = u.why;
    } catch (const std::bad_alloc&) {
        out.why = "it takes more memory than drawing may have";
    }
    return out;
}

Drawn text(std::string_view text, const Wanted& wanted, const TakeFile& take) {
    return drawn(draw_text(text, wanted.pixels), wanted, take);
}

constexpr Module module{prepare, [](std::string_view format) { return way_of(format) != nullptr; }, content,
                        text, draw_page};

}  // namespace

extern "C" __attribute__((visibility("default"))) const Module* undershelf_drawing() {
    return &module;
}

}  // namespace undershelf::drawing
