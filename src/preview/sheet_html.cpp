#include <fmt/format.h>

#include "answers/counts.hpp"
#include "answers/grade_words.hpp"
#include "base/amounts.hpp"
#include "preview/html_text.hpp"
#include "preview/sheet_page.hpp"
#include "preview/sheet_writers.hpp"
#include "volume/words.hpp"

namespace undershelf {

namespace {

class HtmlSheet final : public SheetWriter {
  public:
    HtmlSheet(OutputFile& out, const SheetFacts& facts, const SheetPage& page)
        : out_(out), facts_(facts), page_(page) {
        begin();
    }

    void item(const SheetItem& item) override {
        if (!in_group_ || item.group != group_) begin_group(item.group);
        const auto& e = item.entry;
        const auto name = html_text(e.shown_name());
        put(R"(<li id="f{0}" class="file"><label class="tick"><input type="checkbox" data-id="{0}"> <span>number {0}</span></label>)",
            e.id);
        put_preview(item, name);
        const auto date = date_of(e);
        put(R"(<h3><bdi>{}</bdi></h3><p class="amounts">{}{}{}</p>)", name,
            html_text(amounts_of(e, item.drawn)), date.empty() ? "" : "<br>", html_text(date));
        put(R"(<p class="grade"><b>{}:</b> <span class="reason">{}</span></p>)", html_text(grade_text(e)),
            html_text(item.reason));
        put("</li>\n");
    }

    void finish() override {
        end_group();
        if (facts_.files == 0)
            put("<p class=\"none\">No file fits the selection. There is nothing to look at.</p>\n");
        put("</main>\n");
        put_pages("after");
        put("<dialog id=\"large\"><img alt=\"\" "
            "src=\"data:image/gif;base64,R0lGODlhAQABAAAAACH5BAEKAAEALAAAAAABAAEAAAICTAEAOw==\"><p>&nbsp;</"
            "p><button type=\"button\">Close</button></dialog>\n");
        put("<script>{}</script>\n</body>\n</html>\n", sheet_script());
        flush();
    }

  private:
    template <class... Arguments>
    void put(fmt::format_string<Arguments...> format, Arguments&&... arguments) {
        constexpr std::size_t block = 256 << 10;
        fmt::format_to(std::back_inserter(text_), format, std::forward<Arguments>(arguments)...);
        if (text_.size() >= block) flush();
    }
    void flush() {
        out_.write(text_);
        text_.clear();
    }

    void begin() {
        const auto title = html_text(facts_.source);
        put("<!DOCTYPE html>\n<html lang=\"en\">\n<head>\n<meta charset=\"utf-8\">\n");
        // Nothing is fetched, whatever is in the page.
        put("<meta http-equiv=\"Content-Security-Policy\" content=\"default-src 'none'; img-src data:; "
            "style-src {}; script-src "
            "{}; base-uri 'none'; form-action 'none'\">\n",
            policy_hash(sheet_style()), policy_hash(sheet_script()));
        put("<meta name=\"viewport\" content=\"width=device-width, initial-scale=1\">\n");
        put("<title>Files found on {}{}</title>\n<style>{}</style>\n</head>\n", title,
            page_.of > 1 ? fmt::format(", page {} of {}", page_.number, page_.of) : "", sheet_style());
        put("<body data-shelf=\"{}\" data-heading=\"{}\">\n", html_text(facts_.identity),
            html_text(facts_.heading));
        put("<header>\n<h1>Files found on <bdi>{}</bdi></h1>\n<p>{}, {}. {}</p>\n", title,
            counted(facts_.files, "file", "files"), human_size(facts_.bytes),
            page_.of > 1
                ? fmt::format("This page shows {} to {}.", page_.first + 1, page_.first + page_.count)
                : "");
        put("<p class=\"how\">Tick the files that you want back, save the ticks, and send the small file "
            "that is "
            "saved to whoever made this page. A click on a picture shows it larger.</p>\n");
        put_pages("before");
        put("</header>\n<div id=\"bar\" role=\"toolbar\" aria-label=\"Ticks\"><output id=\"count\"></output> "
            "<label><input type=\"checkbox\" id=\"all\"> all on this page</label> "
            "<button type=\"button\" id=\"save\">Save the ticks</button> "
            "<button type=\"button\" id=\"clear\">Take all ticks away</button></div>\n<main>\n");
    }

    void put_pages(const char* where) {
        if (page_.of < 2) return;
        put("<nav aria-label=\"Pages {}\">Pages:", where);
        for (std::size_t i = 0; i < page_.of; ++i) {
            if (i + 1 == page_.number)
                put(" <b>{}</b>", i + 1);
            else
                put(" <a href=\"./{}\">{}</a>", html_text(link_to(facts_.names[i])), i + 1);
        }
        put("</nav>\n");
    }
    /// A file's name as the path of a link (RFC 3986, 2.1).
    static std::string link_to(const std::string& name) {
        std::string out;
        for (const unsigned char c : name) {
            const bool plain = std::isalnum(c) || c == '-' || c == '_' || c == '.' || c == '~';
            out += plain ? std::string(1, static_cast<char>(c)) : fmt::format("%{:02X}", c);
        }
        return out;
    }

    void begin_group(const std::string& name) {
        end_group();
        group_ = name;
        in_group_ = true;
        put("<section>\n<h2><label><input type=\"checkbox\" class=\"group\"> "
            "<bdi>{}</bdi></label></h2>\n<ul>\n",
            html_text(name));
    }
    void end_group() {
        if (in_group_) put("</ul>\n</section>\n");
        in_group_ = false;
    }

    void put_preview(const SheetItem& item, const std::string& name) {
        if (item.picture.empty()) {
            put(R"(<div class="card"><b>{}</b><span>{}</span><span class="why">{}</span></div>)",
                html_text(item.heading), human_size(item.entry.size), html_text(item.drawn.why));
            return;
        }
        const auto words = drawn_in_words(item.drawn);
        const auto shown = html_text(item.heading) + (words.empty() ? "" : ": " + html_text(words));
        put(R"(<button type="button" class="picture" title="{1}"><img loading="lazy" decoding="async" alt="{0}, {1}" src="data:image/jpeg;base64,)",
            name, shown);
        put("{}\"></button>", base64(item.picture));
        if (item.drawn.shows == Shows::part || item.drawn.shows == Shows::embedded)
            put(R"(<p class="shows">{}</p>)", html_text(words));
    }

    OutputFile& out_;
    const SheetFacts& facts_;
    SheetPage page_;
    std::string text_, group_;
    bool in_group_ = false;
};

}  // namespace

std::unique_ptr<SheetWriter> html_sheet(OutputFile& out, const SheetFacts& facts, const SheetPage& page) {
    return std::make_unique<HtmlSheet>(out, facts, page);
}

}  // namespace undershelf
