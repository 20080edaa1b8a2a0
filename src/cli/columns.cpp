#include "cli/columns.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <charconv>
#include <iterator>

#include "answers/fields.hpp"
#include "base/error.hpp"
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
        {"name", 0, false, [](const ShelfEntry& e) { return e.shown_name() + e.arrow(); }, folder_style},
        {"path", 0, false, shown_path, folder_style},
        {"link", 0, false, [](const ShelfEntry& e) { return e.target(); }},
        {"first_path", 0, false, [](const ShelfEntry& e) { return e.first_path; }},
        {"place", 0, false, [](const ShelfEntry& e) { return e.path(); }},
    };
    return columns;
}

}  // namespace

std::string grade_text(const ShelfEntry& e) {
    if (e.rated == Rated::not_copied) return "not copied yet";
    if (e.rated == Rated::not_yet) return "not rated yet";
    return std::string(word(e.rating.grade));
}

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

std::vector<Column> columns_from(const std::vector<std::string>& names, const Shelf& shelf) {
    std::vector<Column> out;
    for (const auto& name : names) {
        const auto wanted = field_name(name);
        const auto it = std::find_if(all_columns().begin(), all_columns().end(),
                                     [&](const Column& c) { return c.name == wanted; });
        if (it == all_columns().end()) {
            std::vector<std::string> known;
            for (const auto& c : all_columns()) known.push_back(c.name);
            throw Error(Trouble::usage, fmt::format("There is no column `{}`; the columns are {}.", name,
                                                    fmt::join(known, ", ")));
        }
        out.push_back(*it);
        if (it->name == "grade") out.back().width = grade_width(shelf);
    }
    return out;
}

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
    : terminal_(terminal), columns_(std::move(columns)) {
    int fixed = static_cast<int>(columns_.size() - 1) * 2, sharing = 0;
    for (const auto& c : columns_) {
        fixed += c.width;
        sharing += c.width == 0;
    }
    for (const auto& c : columns_) {
        widths_.push_back(
            c.width ? c.width : std::max(narrowest_path, (terminal_.width() - fixed) / std::max(1, sharing)));
    }
}

void TableWriter::heading() {
    std::string line;
    for (std::size_t i = 0; i < columns_.size(); ++i) {
        std::string name = columns_[i].name;
        std::transform(name.begin(), name.end(), name.begin(), [](char c) {
            return c == '_' ? ' ' : static_cast<char>(std::toupper(static_cast<unsigned char>(c)));
        });
        line += (i ? "  " : "") + padded(name, widths_[i], columns_[i].to_right);
    }
    line.erase(line.find_last_not_of(' ') + 1);
    print("{}\n", terminal_.styled(line, Style::dim));
}

void TableWriter::row(const ShelfEntry& e) {
    std::string line;
    for (std::size_t i = 0; i < columns_.size(); ++i) {
        const auto& c = columns_[i];
        const bool last = i + 1 == columns_.size();
        auto cell =
            last && !c.to_right ? fitted(c.text(e), widths_[i]) : padded(c.text(e), widths_[i], c.to_right);
        line += (i ? "  " : "") + terminal_.styled(cell, c.style ? c.style(e) : Style::plain);
    }
    line += '\n';
    write_out(line);
}

}  // namespace undershelf::cli
