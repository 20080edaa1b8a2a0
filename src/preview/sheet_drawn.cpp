#include <fmt/format.h>

#include <nlohmann/json.hpp>

#include "answers/counts.hpp"
#include "answers/grade_words.hpp"
#include "base/amounts.hpp"
#include "base/printable.hpp"
#include "preview/sheet_writers.hpp"
#include "volume/words.hpp"

namespace undershelf {

namespace {

using nlohmann::json;

// Points, of A4.
constexpr double paper_width = 595, paper_height = 842, margin = 34, top = 66, gap = 10;
constexpr double cell_width = (paper_width - 2 * margin - (drawn_columns - 1) * gap) / drawn_columns;
constexpr double cell_height = (paper_height - top - margin - (drawn_rows - 1) * gap) / drawn_rows;
constexpr double picture_height = 82;
constexpr std::uint32_t png_pixels = 1754;  ///< A4 at 150 to the inch

class DrawnSheet final : public SheetWriter {
  public:
    DrawnSheet(OutputFile& out, const SheetFacts& facts, const SheetPage& page, Drawings& drawings,
               PictureForm form)
        : out_(out), facts_(facts), page_(page), drawings_(drawings), form_(form) {}

    void item(const SheetItem& item) override {
        if (on_paper_ == drawn_columns * drawn_rows || papers_.empty()) begin_paper();
        const auto x = margin + static_cast<double>(on_paper_ % drawn_columns) * (cell_width + gap);
        const auto y = top + static_cast<double>(on_paper_ / drawn_columns) * (cell_height + gap);
        ++on_paper_;
        put_picture(item, x, y);
        const auto& e = item.entry;
        const auto below = y + picture_height;
        write(e.shown_name(), x, below + 3, 8, 2, true, "222222");
        write(fmt::format("{}  {}", e.id, amounts_of(e, item.drawn)), x, below + 24, 6.5, 1, false, "555555");
        write(fmt::format("{}{}{}", item.group, date_of(e).empty() ? "" : ", ", date_of(e)), x, below + 32,
              6.5, 1, false, "555555");
        write(fmt::format("{}: {}", grade_text(e), item.reason), x, below + 40, 6.5, 2, false, "555555");
    }

    void finish() override {
        if (papers_.empty()) {
            begin_paper();
            write("No file fits the selection. There is nothing to look at.", margin, top, 10, 2, false,
                  "222222");
        }
        const json described{{"width", paper_width}, {"height", paper_height}, {"pages", papers_}};
        out_.write(drawings_.pages(described, pictures_, {png_pixels, form_, 0}));
    }

  private:
    void begin_paper() {
        papers_.push_back(json::array());
        on_paper_ = 0;
        write("Files found on " + facts_.source, margin, margin - 6, 13, 1, true, "222222");
        const auto per_paper = drawn_columns * drawn_rows;
        const auto papers = std::max<std::size_t>(1, (facts_.files + per_paper - 1) / per_paper);
        write(fmt::format("{}, {}; page {} of {}", counted(facts_.files, "file", "files"),
                          human_size(facts_.bytes), page_.first / per_paper + papers_.size(), papers),
              margin, margin + 11, 8, 1, false, "555555");
    }

    void write(const std::string& text, double x, double y, double size, int lines, bool bold,
               const char* ink) {
        const bool heading = y < top;
        papers_.back().push_back({{"text", without_controls(text)},
                                  {"x", x},
                                  {"y", y},
                                  {"w", heading || size > 9 ? paper_width - 2 * margin : cell_width},
                                  {"size", size},
                                  {"lines", lines},
                                  {"bold", bold},
                                  {"ink", ink}});
    }

    void put_picture(const SheetItem& item, double x, double y) {
        papers_.back().push_back(
            {{"box", "f1efe8"}, {"x", x}, {"y", y}, {"w", cell_width}, {"h", picture_height}});
        if (!item.picture.empty()) {
            papers_.back().push_back({{"image", {pictures_.size(), item.picture.size()}},
                                      {"x", x + 2},
                                      {"y", y + 2},
                                      {"w", cell_width - 4},
                                      {"h", picture_height - 4}});
            pictures_ += item.picture;
            return;
        }
        write(item.heading, x + 6, y + 12, 9, 2, true, "222222");
        write(item.drawn.why, x + 6, y + 44, 7, 4, false, "555555");
    }

    OutputFile& out_;
    const SheetFacts& facts_;
    SheetPage page_;
    Drawings& drawings_;
    PictureForm form_;
    std::vector<json> papers_;
    std::string pictures_;
    std::size_t on_paper_ = 0;
};

}  // namespace

std::unique_ptr<SheetWriter> drawn_sheet(OutputFile& out, const SheetFacts& facts, const SheetPage& page,
                                         Drawings& drawings, PictureForm form) {
    return std::make_unique<DrawnSheet>(out, facts, page, drawings, form);
}

}  // namespace undershelf
