#pragma once
// A figure in the making: what drawing/page.hpp takes, with one palette for all figures.

#include <nlohmann/json.hpp>
#include <string>
#include <vector>

namespace undershelf {

/// One hue from dark to pale, so that it can be told in grey as well.
namespace ink {
inline constexpr const char *text = "24231f", *soft = "6b6a63", *line = "d0cdc3", *strong = "2f5572",
                            *middle = "6d92ad", *pale = "b4cad8", *faint = "e6ebee", *dark = "1d1d1b";
}

class Canvas {
  public:
    /// Points.
    Canvas(double width, double height) : width_(width), height_(height) {
        box(0, 0, width, height, "ffffff");
    }

    void text(double x, double y, const std::string& words, double size = 11, const char* colour = ink::text,
              bool bold = false, bool right = false) {
        items_.push_back({{"text", words},
                          {"x", x},
                          {"y", y},
                          {"size", size},
                          {"ink", colour},
                          {"bold", bold},
                          {"right", right}});
    }
    void box(double x, double y, double w, double h, const char* colour) {
        items_.push_back({{"box", colour}, {"x", x}, {"y", y}, {"w", w}, {"h", h}});
    }
    void line(const std::vector<std::pair<double, double>>& points, const char* colour, double width = 1) {
        nlohmann::json places = nlohmann::json::array();
        for (const auto& [x, y] : points) places.push_back({x, y});
        items_.push_back({{"line", places}, {"ink", colour}, {"width", width}});
    }
    nlohmann::json described() const {
        return {{"width", width_}, {"height", height_}, {"pages", nlohmann::json::array({items_})}};
    }
    double width() const { return width_; }
    double height() const { return height_; }

  private:
    double width_, height_;
    nlohmann::json items_ = nlohmann::json::array();
};

}  // namespace undershelf
