#include "cli/columns.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <charconv>
#include <iterator>

#include "answers/fields.hpp"
#include "answers/grade_words.hpp"
#include "base/error.hpp"
#include "base/nearest.hpp"
#include "cli/output.hpp"
#include "volume/words.hpp"

namespace undershelf::cli {

namespace {

constexpr int narrowest_path = 16;

/// Of the longest grade, and of `not copied yet`.
constexpr int rated_width = 8, unrated_width = 14;

std::string date_text(const MaybeTime& t) {
    return t ? short_date(*t) : "";
}

std::string shown_path(const ShelfEntry& e) {
    auto out = e.shown_path();
    if (!e.stream.empty()) out += ":" + e.stream;
    if (e.is_dir) out += "/";
    return out + e.arrow();
}

Style origin_style(const ShelfEntry& e) {
    return e.origin == Origin::live ? Style::dim : Style::plain;
}
Style folder_style(const ShelfEntry& e) {
    return e.is_dir ? Style::bold : Style::plain;
}

const std::vector<Column>& all_columns() {
    static const std::vector<Column> columns{
        {"id", 8, true, [](const ShelfEntry& e) { return std::to_string(e.id); }},
        {"marked", 6, false, [](const ShelfEntry& e) { return std::string(e.marked ? "*" : ""); }},
        {"volume", 6, true,
         [](const ShelfEntry& e) { return e.volume ? std::to_string(*e.volume) : std::string(); }},
        {"origin", 8, false, [](const ShelfEntry& e) { return std::string(word(e.origin)); }, origin_style},
        {"grade", rated_width, false, grade_text, grade_style},
        {"chance", 6, true, [](const ShelfEntry& e) { return chance_text(e); }},
        {"left", 5, true,
         [](const ShelfEntry& e) {
             return e.is_dir ? std::string() : fmt::format("{:.0f} %", 100 * e.rating.left);
         }},
        {"size", 10, true, [](const ShelfEntry& e) { return e.is_dir ? std::string() : human_size(e.size); }},
        {"bytes", 14, true,
         [](const ShelfEntry& e) { return e.is_dir ? std::string() : std::to_string(e.size); }},
        {"created", 16, false, [](const ShelfEntry& e) { return date_text(e.created); }},
        {"modified", 16, false, [](const ShelfEntry& e) { return date_text(e.modified); }},
        {"accessed", 16, false, [](const ShelfEntry& e) { return date_text(e.accessed); }},
        {"deleted", 16, false, [](const ShelfEntry& e) { return date_text(e.deleted); }},
        {"kind", 8, false,
         [](const ShelfEntry& e) { return e.is_dir ? std::string("folder") : std::string(word(e.kind)); }},
        {"ext", 6, false, [](const ShelfEntry& e) { return e.ext; }},
        {"layout", 7, false, [](const ShelfEntry& e) { return std::string(word(e.layout)); }},
        {"name_certainty", 14, false,
         [](const ShelfEntry& e) { return std::string(word(e.name_certainty)); }},
        {"format", 6, false, [](const ShelfEntry& e) { return e.format; }},
        {"checked", 7, false, [](const ShelfEntry& e) { return std::string(checked_word(e)); }},
        {"complete", 8, false,
         [](const ShelfEntry& e) {
             return std::string(!e.complete ? "" : *e.complete ? "yes" : "no");
         }},
        {"holds_to", 14, true,
         [](const ShelfEntry& e) { return e.holds_to ? std::to_string(*e.holds_to) : std::string(); }},
        {"proven_to", 14, true,
         [](const ShelfEntry& e) {
             return !checked_word(e).empty() ? std::to_string(e.proven_to) : std::string();
         }},
        {"attributes", 10, false,
         [](const ShelfEntry& e) {
             return fmt::format("{}", fmt::join(attribute_words(e.attributes), ", "));
         }},
        {"marks", 0, false, [](const ShelfEntry& e) { return fmt::format("{}", fmt::join(e.marks, ", ")); }},
        {"pixels", 11, true, [](const ShelfEntry& e) { return e.details.pixels; }},
        {"seconds", 8, true,
         [](const ShelfEntry& e) {
             return e.details.seconds ? fmt::format("{:.1f}", *e.details.seconds) : std::string();
         }},
        {"pages", 5, true,
         [](const ShelfEntry& e) {
             return e.details.pages ? std::to_string(*e.details.pages) : std::string();
         }},
        {"title", 0, false, [](const ShelfEntry& e) { return e.title; }},
        {"camera", 0, false, [](const ShelfEntry& e) { return e.details.camera; }},
        {"earlier_names", 0, false,
         [](const ShelfEntry& e) { return fmt::format("{}", fmt::join(e.earlier_names, "; ")); }},
        {"name", 0, false, [](const ShelfEntry& e) { return e.shown_name() + e.arrow(); }, folder_style},
        {"path", 0, false, shown_path, folder_style},
        {"link", 0, false, [](const ShelfEntry& e) { return e.target(); }},
        {"first_path", 0, false, [](const ShelfEntry& e) { return e.first_path; }},
        {"place", 0, false, [](const ShelfEntry& e) { return e.path(); }},
    };
    return columns;
}

}  // namespace

std::string chance_text(const ShelfEntry& e) {
    if (e.is_dir || e.rated != Rated::yes) return "";
    const auto c = e.rating.chance;
    if (c > 0 && c < 0.005) return "<0.01";
    if (c > 0.994 && c < 1) return ">0.99";
    return fmt::format("{:.2f}", c);
}

Style grade_style(const ShelfEntry& e) {
    switch (e.rating.grade) {
        case Grade::verified:
        case Grade::likely:
            return Style::strong;
        case Grade::doubtful:
            return Style::middle;
        case Grade::partial:
            return Style::pale;
        case Grade::gone:
            return Style::dim;
        case Grade::none:
            break;
    }
    return Style::plain;
}

const std::vector<std::string>& default_columns() {
    static const std::vector<std::string> names{"id",   "origin",   "grade", "chance",
                                                "size", "modified", "path"};
    return names;
}

int grade_width(const Shelf& shelf) {
    return shelf.may_have_unrated() ? unrated_width : rated_width;
}

namespace {
const Column& column_named(const std::string& name) {
    const auto wanted = field_name(name);
    const auto it = std::find_if(all_columns().begin(), all_columns().end(),
                                 [&](const Column& c) { return c.name == wanted; });
    if (it != all_columns().end()) return *it;
    std::vector<std::string> known;
    for (const auto& c : all_columns()) known.push_back(c.name);
    throw Error(Trouble::usage, fmt::format("There is no column `{}`.{} The columns are {}.", name,
                                            did_you_mean(wanted, known), fmt::join(known, ", ")));
}
}  // namespace

void check_column_names(const std::vector<std::string>& names) {
    for (const auto& name : names) column_named(name);
}

std::vector<Column> columns_from(const std::vector<std::string>& names, const Shelf& shelf) {
    std::vector<Column> out;
    for (const auto& name : names) {
        out.push_back(column_named(name));
        if (out.back().name == "grade") out.back().width = grade_width(shelf);
    }
    return out;
}

namespace {
std::vector<ColumnWriter::Head> heads_of(const std::vector<Column>& columns) {
    std::vector<ColumnWriter::Head> out;
    for (const auto& c : columns) {
        std::string title = c.name;
        std::transform(title.begin(), title.end(), title.begin(), [](char letter) {
            return letter == '_' ? ' ' : static_cast<char>(std::toupper(static_cast<unsigned char>(letter)));
        });
        out.push_back({std::move(title), c.width, c.to_right});
    }
    return out;
}
}  // namespace

std::vector<Column> fitting(std::vector<Column> columns, int width) {
    const auto needed = [&] {
        int sum = static_cast<int>(columns.size() - 1) * 2;
        for (const auto& c : columns) sum += c.width ? c.width : narrowest_path;
        return sum;
    };
    for (const char* dispensable : {"modified", "origin", "chance", "size"}) {
        if (needed() <= width) break;
        std::erase_if(columns, [&](const Column& c) { return c.name == dispensable; });
    }
    return columns;
}

TableWriter::TableWriter(const Terminal& terminal, std::vector<Column> columns)
    : columns_(std::move(columns)), writer_(terminal, heads_of(columns_)), cells_(columns_.size()) {}

void TableWriter::row(const ShelfEntry& e) {
    for (std::size_t i = 0; i < columns_.size(); ++i) {
        cells_[i].text = columns_[i].text(e);
        cells_[i].style = columns_[i].style ? columns_[i].style(e) : Style::plain;
    }
    writer_.row(cells_);
}

}  // namespace undershelf::cli
