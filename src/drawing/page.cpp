#include "drawing/page.hpp"

#include <cairo-pdf.h>
#include <cairo-svg.h>
#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <nlohmann/json.hpp>

#include "base/json_text.hpp"
#include "drawing/decoders.hpp"
#include "drawing/writing.hpp"

namespace undershelf::drawing {

namespace {

using nlohmann::json;

constexpr std::uint64_t most_json = 64 << 20;
constexpr double least_side = 10, longest_side = 14400;  ///< points

struct Place {
    double x, y, w, h;
};
Place place_in(const json& item) {
    return {item.value("x", 0.0), item.value("y", 0.0), item.value("w", 0.0), item.value("h", 0.0)};
}

void set_ink(cairo_t* pen, const std::string& colour) {
    const auto value = std::strtoul(colour.c_str(), nullptr, 16);
    const auto channel = [&](int shift) { return static_cast<double>(value >> shift & 0xFF) / 255; };
    cairo_set_source_rgb(pen, channel(16), channel(8), channel(0));
}

class Pages {
  public:
    Pages(Content& description, std::uint64_t pictures_at)
        : description_(description), pictures_at_(pictures_at) {}

    void draw(cairo_t* pen, const json& items) {
        for (const auto& item : items) {
            cairo_save(pen);
            if (item.contains("text")) draw_words(pen, item);
            if (item.contains("image")) draw_image(pen, item);
            if (item.contains("box")) draw_box(pen, item);
            if (item.contains("line")) draw_line(pen, item);
            cairo_restore(pen);
        }
    }

  private:
    static void draw_words(cairo_t* pen, const json& item) {
        const auto at = place_in(item);
        set_ink(pen, item.value("ink", "222222"));
        const auto font = fmt::format("Sans {} {}px", item.value("bold", false) ? "Bold" : "",
                                      std::clamp(item.value("size", 9.0), 1.0, 200.0));
        const auto text = item.at("text").get<std::string>();
        const auto layout = written(pen, text, font.c_str(), at.w, item.value("lines", 0));
        const auto right = item.value("right", false) ? at.x - width_of(layout) : at.x;
        write_at(pen, layout, right, at.y);
    }

    static void draw_box(cairo_t* pen, const json& item) {
        const auto at = place_in(item);
        const auto colour = item.at("box").get<std::string>();
        set_ink(pen, colour.empty() ? "cccccc" : colour);
        cairo_rectangle(pen, at.x, at.y, at.w, at.h);
        cairo_set_line_width(pen, 0.5);
        colour.empty() ? cairo_stroke(pen) : cairo_fill(pen);
    }

    static void draw_line(cairo_t* pen, const json& item) {
        set_ink(pen, item.value("ink", "222222"));
        cairo_new_path(pen);  // not from where a text ended
        cairo_set_line_width(pen, std::clamp(item.value("width", 1.0), 0.1, 50.0));
        cairo_set_line_join(pen, CAIRO_LINE_JOIN_ROUND);
        for (const auto& point : item.at("line"))
            cairo_line_to(pen, point.at(0).get<double>(), point.at(1).get<double>());
        cairo_stroke(pen);
    }

    void draw_image(cairo_t* pen, const json& item) {
        const auto at = place_in(item);
        PartOfContent file(description_, pictures_at_ + item.at("image").at(0).get<std::uint64_t>(),
                           item.at("image").at(1).get<std::uint64_t>());
        const auto bytes = all_of(file, 16 << 20);
        BytesAsContent content(bytes);
        const bool is_jpeg = bytes.size() > 2 && bytes[0] == 0xFF && bytes[1] == 0xD8;
        constexpr std::uint32_t as_it_is = 0x10000;
        const auto surface = surface_of(is_jpeg ? draw_jpeg(content, as_it_is) : draw_png(content, as_it_is));
        // A PDF file takes it as it is packed already.
        if (is_jpeg) {
            auto* const kept = new ByteVector(bytes);
            cairo_surface_set_mime_data(
                surface.get(), CAIRO_MIME_TYPE_JPEG, kept->data(), kept->size(),
                [](void* data) { delete static_cast<ByteVector*>(data); }, kept);
        }
        const double w = cairo_image_surface_get_width(surface.get()),
                     h = cairo_image_surface_get_height(surface.get());
        const auto scale = std::min(at.w / w, at.h / h);
        if (!(scale > 0)) return;
        cairo_translate(pen, at.x + (at.w - w * scale) / 2, at.y + (at.h - h * scale) / 2);
        cairo_scale(pen, scale, scale);
        cairo_set_source_surface(pen, surface.get(), 0, 0);
        cairo_paint(pen);
    }

    Content& description_;
    std::uint64_t pictures_at_;
};

cairo_status_t give(void* take, const unsigned char* bytes, unsigned length) {
    (*static_cast<const TakeFile*>(take))({reinterpret_cast<const char*>(bytes), length});
    return CAIRO_STATUS_SUCCESS;
}

bool draw_described(Content& description, const Wanted& wanted, const TakeFile& take) {
    Cursor start(description);
    const auto length = start.take_structure<boost::endian::little_uint64_buf_t>();
    if (!length || length->value() > std::min(most_json, description.size())) return false;
    PartOfContent text(description, 8, length->value());
    const auto bytes = all_of(text, most_json);
    const auto described = json_in(std::string(content::text_of(bytes)));
    const auto width = described.at("width").get<double>(), height = described.at("height").get<double>();
    if (!(width >= least_side && height >= least_side && width <= longest_side && height <= longest_side))
        return false;
    Pages pages(description, 8 + length->value());
    const auto& items = described.at("pages");
    const bool pdf = wanted.form == PictureForm::pdf;
    if (pdf || wanted.form == PictureForm::svg) {
        const auto create = pdf ? cairo_pdf_surface_create_for_stream : cairo_svg_surface_create_for_stream;
        const Surface file(create(give, const_cast<TakeFile*>(&take), width, height), cairo_surface_destroy);
        const auto pen = pen_on(file);
        // A drawing has one page.
        for (std::size_t i = 0; i < (pdf ? items.size() : 1); ++i) {
            pages.draw(pen.get(), items.at(i));
            cairo_show_page(pen.get());
        }
        cairo_surface_finish(file.get());
        return cairo_surface_status(file.get()) == CAIRO_STATUS_SUCCESS;
    }
    const auto scale = std::min(wanted.pixels, 16384u) / std::max(width, height);
    const auto surface = new_surface(std::max(1, static_cast<int>(std::lround(width * scale))),
                                     std::max(1, static_cast<int>(std::lround(height * scale))));
    const auto pen = white_paper(surface);
    cairo_scale(pen.get(), scale, scale);
    pages.draw(pen.get(), items.at(0));
    write_png(surface, take);
    return true;
}

}  // namespace

bool draw_page(Content& description, const Wanted& wanted, const TakeFile& take) {
    try {
        return draw_described(description, wanted, take);
    } catch (const json::exception&) {
        return false;
    } catch (const Undrawable&) {
        return false;
    }
}

}  // namespace undershelf::drawing
