#include "report/html.hpp"

#include <fmt/format.h>

#include "preview/html_text.hpp"

namespace undershelf {

namespace {

constexpr const char* style = R"css(
:root { color-scheme: light dark; --paper: #fbfaf7; --ink: #24231f; --soft: #6b6a63; --line: #d9d6cc; --card: #f1efe8; }
@media (prefers-color-scheme: dark) {
  :root { --paper: #1c1b19; --ink: #eceae4; --soft: #a3a198; --line: #3c3a35; --card: #292824; }
}
* { box-sizing: border-box; }
body { margin: 0 auto; padding: 1rem 1.4rem 4rem; max-width: 62rem; background: var(--paper); color: var(--ink);
  font: 1rem/1.5 system-ui, sans-serif; overflow-wrap: anywhere; }
h1 { font-size: 1.7rem; margin: 1rem 0 0.2rem; }
h2 { font-size: 1.2rem; margin: 2rem 0 0.5rem; }
.about, .soft { color: var(--soft); }
.warning { border-left: 4px solid var(--ink); padding: 0.2rem 0.8rem; font-weight: 600; }
table { border-collapse: collapse; width: 100%; margin: 0.5rem 0 1rem; font-variant-numeric: tabular-nums; }
th, td { text-align: right; padding: 0.25rem 0.6rem; border-bottom: 1px solid var(--line); vertical-align: top; }
th { font-weight: 600; color: var(--soft); }
th, td { white-space: nowrap; }
th:first-child, td:first-child { text-align: left; }
td.words, th.words, .pairs td + td { text-align: left; }
td.words, td:first-child, .pairs td + td { white-space: normal; }
.previews { display: grid; grid-template-columns: repeat(auto-fill, minmax(9rem, 1fr)); gap: 0.8rem; list-style: none; padding: 0; }
.previews img { width: 100%; height: 8rem; object-fit: contain; background: var(--card); border-radius: 4px; }
.previews span { display: block; font-size: 0.8rem; color: var(--soft); }
figure { margin: 1rem 0; }
figure img { width: 100%; max-width: 720px; border: 1px solid var(--line); border-radius: 4px; background: #fff; }
figcaption { color: var(--soft); font-size: 0.9rem; }
code { font-size: 0.9em; background: var(--card); padding: 0.1em 0.3em; border-radius: 3px; }
ul { padding-left: 1.2rem; }
@page { size: A4; margin: 15mm; }
@media print {
  :root { --paper: #fff; --ink: #000; --soft: #444; --line: #aaa; --card: #f4f4f4; }
  body { padding: 0; max-width: none; font-size: 9.5pt; line-height: 1.35; }
  h1 { font-size: 16pt; margin: 0; }
  h2 { font-size: 11.5pt; margin: 4mm 0 1mm; }
  p, ul { margin: 1mm 0; }
  th, td { padding: 0.5mm 2mm; }
  .previews { grid-template-columns: repeat(6, 1fr); gap: 3mm; }
  .previews img { height: 20mm; }
  .colleague { break-before: page; }
  h2 { break-after: avoid; }
  tr, figure, .previews li { break-inside: avoid; }
}
)css";

}  // namespace

void append_row(std::string& out, const std::vector<std::string>& cells, const char* kind) {
    out += "<tr>";
    for (const auto& cell : cells) out += fmt::format("<{0}>{1}</{0}>", kind, html_text(cell));
    out += "</tr>\n";
}

std::string report_html(const ReportFacts& facts, const std::vector<Figure>& figures) {
    const auto title = facts.title.empty() ? "What can be saved of " + facts.source_name : facts.title;
    std::string out = "<!DOCTYPE html>\n<html lang=\"en\">\n<head>\n<meta charset=\"utf-8\">\n";
    out += fmt::format(
        "<meta http-equiv=\"Content-Security-Policy\" content=\"default-src 'none'; img-src data:; style-src "
        "{}; base-uri "
        "'none'; form-action 'none'\">\n<meta name=\"viewport\" content=\"width=device-width, "
        "initial-scale=1\">\n",
        policy_hash(style));
    out += fmt::format("<title>{}</title>\n<style>{}</style>\n</head>\n<body>\n<main>\n<h1>{}</h1>\n",
                       html_text(title), style, html_text(title));
    append_customer_page(out, facts);
    append_colleague_pages(out, facts, figures);
    out += "</main>\n</body>\n</html>\n";
    return out;
}

}  // namespace undershelf
