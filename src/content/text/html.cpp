// Pages (WHATWG, HTML). Whatever is in them is shown, so that nothing can contradict it but what is no
// text.

#include "content/format.hpp"
#include "content/list.hpp"
#include "content/text/markup.hpp"
#include "content/text/tags.hpp"
#include "content/text/text.hpp"
#include "content/titles.hpp"
#include "content/words.hpp"

namespace undershelf::content {

namespace {

class Html final : public FormatReader {
  public:
    bool all_our_own() const override { return true; }
    Recognised recognise(Bytes first) const override {
        const auto start = markup_start(first);
        return {"html", start.is_html && !start.declared ? 0.9 : 0.0};
    }
    Check check(Content& content, const CheckLimits&) const override {
        Check out;
        out.format = "html";
        return check_as_text(content, out);
    }
    void text(Content& content, const TakeText& take) const override { markup_words(content, take); }
    std::string title(Content& content) const override {
        return as_title(between_tags(text_start(content), "title"));
    }
};

constexpr Format rows[] = {
    {.word = "html",
     .name = "web page",
     .kind = Kind::text,
     .extensions = " html htm xhtml shtml xls doc ",
     .family = "markup",
     .strength = Strength::fair,
     .delay = 4 * KiB,
     .filling = Filling::text},
};

}  // namespace

FormatRows html_formats() {
    static const Html reader;
    return {rows, &reader};
}

}  // namespace undershelf::content
