#include "report/figures.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "base/amounts.hpp"
#include "base/text.hpp"
#include "content/kinds.hpp"
#include "report/calibration.hpp"
#include "report/canvas.hpp"
#include "volume/words.hpp"

namespace undershelf {

namespace {

constexpr double wide = 720;
constexpr std::uint32_t png_pixels = 1440;

void heading(Canvas& c, const std::string& words, const std::string& below) {
    c.text(20, 14, words, 15, ink::text, true);
    c.text(20, 34, below, 10.5, ink::soft);
}

/// Marks of an axis from 0 to `end` bytes: a few round ones.
std::vector<std::uint64_t> marks_to(std::uint64_t end) {
    std::uint64_t step = 1;
    while (step < end / 6 + 1) step *= 2;
    std::vector<std::uint64_t> out;
    for (std::uint64_t at = 0; at <= end; at += step) out.push_back(at);
    return out;
}

/// Who has which part: a lane for each, along the source.
Canvas map_figure(const ReportFacts& f) {
    constexpr double left = 265, right = 40, top = 66, lane = 34, tall = 24;
    Canvas c(wide, top + lane * holders + 40);
    heading(
        c, "Where what is on the source",
        fmt::format("{} from its start to its end; how full each part of it is", human_size(f.source.size)));
    const double across = wide - left - right,
                 step = across / static_cast<double>(std::max<std::size_t>(1, f.map.size()));
    constexpr const char* colours[] = {ink::dark,   ink::strong, ink::strong,
                                       ink::middle, ink::middle, ink::pale};
    for (std::size_t h = 0; h < holders; ++h) {
        const auto y = top + lane * static_cast<double>(h);
        std::uint64_t bytes = 0;
        for (const auto& part : f.map) bytes += part[h];
        c.text(20, y + 3, std::string(words_of(static_cast<Holder>(h))), 11);
        c.text(left - 12, y + 3, bytes ? human_size(bytes) : "none", 11, ink::soft, false, true);
        c.line({{left, y + tall}, {left + across, y + tall}}, ink::line, 0.75);
        for (std::size_t i = 0; i < f.map.size(); ++i) {
            std::uint64_t all = 0;
            for (const auto part : f.map[i]) all += part;
            if (f.map[i][h] == 0 || all == 0) continue;
            // What is there at all can be seen.
            const auto part =
                std::max(0.08, static_cast<double>(f.map[i][h]) / static_cast<double>(all)) * tall;
            c.box(left + step * static_cast<double>(i), y + tall - part, step + 0.3, part, colours[h]);
        }
    }
    const auto y = top + lane * holders;
    for (const auto at : marks_to(f.source.size)) {
        const auto x = left + across * static_cast<double>(at) /
                                  static_cast<double>(std::max<std::uint64_t>(1, f.source.size));
        c.line({{x, y - 4}, {x, y + 2}}, ink::soft, 0.75);
        const bool at_end = x > wide - 90;  // its words would be cut off
        c.text(at_end ? x : x + 2, y + 4, at ? human_size(at) : "start", 9.5, ink::soft, false, at_end);
    }
    return c;
}

/// A row a kind, a column a grade.
Canvas kinds_figure(const ReportFacts& f) {
    constexpr double left = 100, top = 84, row = 26, files = 70;
    std::vector<std::pair<Kind, Counts>> kinds(f.kinds.begin(), f.kinds.end());
    std::sort(kinds.begin(), kinds.end(),
              [](const auto& a, const auto& b) { return a.second.files > b.second.files; });
    Canvas c(wide, top + row * static_cast<double>(kinds.size()) + 20);
    heading(c, "Files by kind, and how sure they are",
            fmt::format("numbers of files; a bar is as long as their share of the largest number"));
    const double column = (wide - left - files - 20) / 5;
    std::uint64_t most = 1;
    for (const auto& [kind, counts] : kinds) {
        for (const auto grade : shown_grades)
            most = std::max(most, counts.by_grade[static_cast<std::size_t>(grade)]);
    }
    c.text(left + files - 14, top - 20, "files", 10.5, ink::soft, false, true);
    double x = left + files;
    for (const auto grade : shown_grades) {
        c.text(x, top - 20, std::string(word(grade)), 10.5, ink::soft);
        x += column;
    }
    constexpr const char* colours[] = {ink::strong, ink::strong, ink::middle, ink::pale, ink::faint};
    double y = top;
    for (const auto& [kind, counts] : kinds) {
        c.text(20, y + 1, std::string(word(kind)), 11);
        c.text(left + files - 14, y + 1, grouped(counts.files), 11, ink::text, false, true);
        for (std::size_t i = 0; i < shown_grades.size(); ++i) {
            const auto n = counts.by_grade[static_cast<std::size_t>(shown_grades[i])];
            if (n == 0) continue;
            const auto at = left + files + column * static_cast<double>(i);
            const auto length =
                std::max(1.5, (column - 62) * static_cast<double>(n) / static_cast<double>(most));
            c.box(at, y + 2, length, 13, colours[i]);
            c.text(at + length + 4, y + 1, grouped(n), 10.5, ink::soft);
        }
        y += row;
    }
    return c;
}

std::string number(std::uint64_t n) {
    return n >= 100'000 ? fmt::format("{} k", grouped(n / 1000)) : grouped(n);
}

Canvas sizes_figure(const ReportFacts& f) {
    constexpr double left = 40, top = 70, tall = 150;
    Canvas c(wide, top + tall + 50);
    heading(c, "Files by size",
            "numbers of files; sizes in bytes, each column up to four times the one before it");
    const auto most = std::max<std::uint64_t>(1, *std::max_element(f.sizes.begin(), f.sizes.end()));
    const double column = (wide - 2 * left) / static_cast<double>(f.sizes.size());
    c.line({{left, top + tall}, {wide - left, top + tall}}, ink::line, 0.75);
    std::uint64_t end = 256;
    for (std::size_t i = 0; i < f.sizes.size(); ++i, end *= 4) {
        const auto x = left + column * static_cast<double>(i);
        const auto part =
            f.sizes[i]
                ? std::max(1.5, (tall - 16) * static_cast<double>(f.sizes[i]) / static_cast<double>(most))
                : 0;
        if (f.sizes[i]) {
            c.box(x + 3, top + tall - part, column - 6, part, ink::middle);
            c.text(x + 4, top + tall - part - 15, number(f.sizes[i]), 10, ink::soft);
        }
        const bool last = i + 1 == f.sizes.size();
        c.text(x + 2, top + tall + 6, last ? "more" : fmt::format("{}", human_size(end)), 8.5, ink::soft);
    }
    c.text(left, top + tall + 22, "up to", 8.5, ink::soft);
    return c;
}

/// Months, or years where there are more than can be told apart.
Canvas dates_figure(const ReportFacts& f) {
    constexpr double left = 90, right = 30, top = 66, lane = 62, tall = 44;
    Canvas c(wide, top + 3 * lane + 34);
    const Months* lanes[] = {&f.created, &f.changed, &f.deleted};
    const char* words[] = {"created", "changed", "deleted"};
    int first = 999'912, last = 0;
    for (const auto* months : lanes) {
        if (months->empty()) continue;
        first = std::min(first, months->begin()->first);
        last = std::max(last, months->rbegin()->first);
    }
    const auto index = [](int month) { return month / 100 * 12 + month % 100 - 1; };
    const int from = last ? index(first) : 0, to = last ? index(last) : 0;
    constexpr int most_months = 240;
    const bool years = to - from > most_months;
    const int unit = years ? 12 : 1, begin = from / unit, count = to / unit - begin + 1;
    heading(
        c, "Dates of the files",
        fmt::format("numbers of files for each {}; only dates that are recorded", years ? "year" : "month"));
    const double across = wide - left - right, step = across / count;
    for (std::size_t i = 0; i < 3; ++i) {
        const auto y = top + lane * static_cast<double>(i);
        std::map<int, std::uint64_t> bars;
        std::uint64_t most = 1, all = 0;
        for (const auto& [month, n] : *lanes[i]) {
            auto& bar = bars[index(month) / unit - begin];
            bar += n;
            all += n;
            most = std::max(most, bar);
        }
        c.text(20, y + tall - 14, words[i], 11);
        c.text(20, y + tall - 30, all ? grouped(all) : "none known", 10, ink::soft);
        c.line({{left, y + tall}, {left + across, y + tall}}, ink::line, 0.75);
        for (const auto& [at, n] : bars) {
            const auto part = std::max(1.5, tall * static_cast<double>(n) / static_cast<double>(most));
            c.box(left + step * at, y + tall - part, std::max(0.7, step * 0.85), part,
                  i == 2 ? ink::strong : ink::middle);
        }
    }
    if (!last) return c;
    const int span = count * unit / 12 + 1, each = std::max(1, (span + 7) / 8);
    double free_from = 0;
    for (int year = (from + 11) / 12; year <= to / 12; ++year) {
        const auto x = left + across * (year * 12 - begin * unit) / (static_cast<double>(count) * unit);
        if (year % each != 0 || x < free_from) continue;
        c.line({{x, top}, {x, top + 3 * lane - 12}}, ink::faint, 0.75);
        c.text(x + 2, top + 3 * lane - 10, std::to_string(year), 9.5, ink::soft);
        free_from = x + 40;
    }
    if (free_from == 0)
        c.text(left, top + 3 * lane - 10, fmt::format("{}-{:02}", first / 100, first % 100), 9.5, ink::soft);
    return c;
}

Canvas chances_figure(const ReportFacts& f) {
    constexpr double left = 70, top = 76, side = 300, bars = 90;
    Canvas c(wide, top + side + bars + 60);
    heading(c, "How far the chances can be trusted", fmt::format("measured on {}", calibration_version));
    c.line({{left, top}, {left, top + side}, {left + side, top + side}}, ink::line, 0.75);
    c.line({{left, top + side}, {left + side, top}}, ink::line, 0.75);
    c.text(left + side * 0.42, top + side * 0.66, "told exactly right", 9.5, ink::soft);
    std::vector<std::pair<double, double>> curve;
    for (const auto& bin : calibration_bins) {
        if (bin.files < calibration_enough) continue;
        const auto x = left + side * bin.mean, y = top + side * (1 - bin.exact);
        curve.emplace_back(x, y);
        c.box(x - 3, y - 3, 6, 6, ink::strong);
    }
    c.line(curve, ink::strong, 1.5);
    c.text(left + side + 16, top - 6, "share of files that came back byte for byte", 10.5, ink::strong);
    for (const double at : {0.0, 0.5, 1.0}) {
        c.text(left - 8, top + side * (1 - at) - 7, fmt::format("{:.0f} %", at * 100), 9.5, ink::soft, false,
               true);
        c.text(left + side * at - 6, top + side + 5, fmt::format("{:.1f}", at), 9.5, ink::soft);
    }
    const auto most = std::max<std::uint64_t>(1, *std::max_element(f.chances.begin(), f.chances.end()));
    const auto base = top + side + 24 + bars;
    for (std::size_t i = 0; i < f.chances.size(); ++i) {
        if (f.chances[i] == 0) continue;
        const auto part =
            std::max(1.5, (bars - 20) * static_cast<double>(f.chances[i]) / static_cast<double>(most));
        const auto x = left + side * static_cast<double>(i) / 10;
        c.box(x + 1.5, base - part, side / 10 - 3, part, ink::middle);
        c.text(x + 1.5, base - part - 13, number(f.chances[i]), 9, ink::soft);
    }
    c.line({{left, base}, {left + side, base}}, ink::line, 0.75);
    c.text(left + side + 16, base - 34, "files of this job, by their chance", 10.5, ink::text);
    c.text(left + side + 16, base - 18, "(0 to 1, in tenths)", 9.5, ink::soft);
    return c;
}

}  // namespace

std::vector<Figure> draw_figures(const ReportFacts& facts, Drawings& drawings) {
    std::vector<Figure> out;
    const auto add = [&](const char* name, const Canvas& canvas, std::string caption, std::string told) {
        const auto described = canvas.described();
        out.push_back({name, std::move(caption), std::move(told),
                       drawings.pages(described, {}, {.pixels = png_pixels, .form = PictureForm::svg}),
                       drawings.pages(described, {}, {.pixels = png_pixels, .form = PictureForm::png})});
    };
    add("map", map_figure(facts), "What each part of the source holds.",
        "A map of the source, from its start to its end.");
    if (facts.files == 0) return out;
    add("kinds", kinds_figure(facts), "Files by kind and by how sure they are.",
        "Numbers of files, a row for each kind.");
    add("sizes", sizes_figure(facts), "Files by size.", "Numbers of files, a column for each size.");
    add("dates", dates_figure(facts), "When files were created, changed and deleted.",
        "Numbers of files along the years.");
    add("chances", chances_figure(facts), "What chances have been worth, and those of this job.",
        "A curve of what came back against the chance that was told, and the chances of this job's files "
        "below it.");
    return out;
}

}  // namespace undershelf
