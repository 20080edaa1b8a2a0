#include "cli/columns.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <charconv>
#include <iterator>

#include "base/error.hpp"
#include "base/printable.hpp"
#include "cli/output.hpp"
#include "volume/words.hpp"

namespace undershelf::cli {

namespace {

constexpr int narrowest_path = 16;

std::string date_text(const MaybeTime& t) {
    return t ? short_date(*t) : "";
}

std::string shown_path(const ShelfEntry& e) {
    auto out = e.shown_path();
    if (!e.stream.empty()) out += ":" + e.stream;
    if (e.is_dir) out += "/";
    return out;
}

/// How strongly the content was checked; empty where it was not.
std::string_view checked_word(const ShelfEntry& e) {
    return e.checked && *e.checked ? word(static_cast<Strength>(*e.checked)) : std::string_view();
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
        {"mark", 4, false, [](const ShelfEntry& e) { return std::string(e.marked ? "*" : ""); }},
        {"volume", 6, true,
         [](const ShelfEntry& e) { return e.volume ? std::to_string(*e.volume) : std::string(); }},
        {"origin", 8, false, [](const ShelfEntry& e) { return std::string(word(e.origin)); }, origin_style},
        {"grade", 8, false, [](const ShelfEntry& e) { return std::string(word(e.rating.grade)); },
         grade_style},
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
        {"certainty", 12, false, [](const ShelfEntry& e) { return std::string(word(e.name_certainty)); }},
        {"format", 6, false, [](const ShelfEntry& e) { return e.format; }},
        {"checked", 7, false, [](const ShelfEntry& e) { return std::string(checked_word(e)); }},
        {"complete", 8, false,
         [](const ShelfEntry& e) {
             return std::string(!e.complete ? "" : *e.complete ? "yes" : "no");
         }},
        {"holds-to", 14, true,
         [](const ShelfEntry& e) { return e.holds_to ? std::to_string(*e.holds_to) : std::string(); }},
        {"proven-to", 14, true,
         [](const ShelfEntry& e) {
             return !checked_word(e).empty() ? std::to_string(e.proven_to) : std::string();
         }},
        {"name", 0, false, [](const ShelfEntry& e) { return e.shown_name(); }, folder_style},
        {"path", 0, false, shown_path, folder_style},
        {"first-path", 0, false, [](const ShelfEntry& e) { return e.first_path; }},
        {"place", 0, false, [](const ShelfEntry& e) { return e.path(); }},
    };
    return columns;
}

/// JSON (RFC 8259) with everything escaped that is_unprintable(): a line shown on a terminal does no harm.
void append_escaped(std::string& out, std::string_view text) {
    out += '"';
    const auto append = [&out](char32_t c, std::string_view bytes) {
        if (c == '"' || c == '\\') {
            out += '\\';
            out += bytes;
        } else if (!is_unprintable(c)) {
            out += bytes;
        } else if (c < 0x10000) {
            fmt::format_to(std::back_inserter(out), "\\u{:04x}", static_cast<unsigned>(c));
        } else {
            const auto rest = static_cast<unsigned>(c) - 0x10000;
            fmt::format_to(std::back_inserter(out), "\\u{:04x}\\u{:04x}", 0xD800 + (rest >> 10),
                           0xDC00 + (rest & 0x3FF));
        }
    };
    if (is_plain(text) && text.find_first_of("\"\\") == std::string_view::npos) {
        out += text;
    } else {
        for_each_character(text, append);
    }
    out += '"';
}

void append_number(std::string& out, std::int64_t value) {
    char digits[24];
    out.append(digits, std::to_chars(digits, digits + sizeof digits, value).ptr);
}

/// A value from 0 to 1 with four decimals.
void append_share(std::string& out, double value) {
    const auto scaled = static_cast<int>(std::clamp(value, 0.0, 1.0) * 10000 + 0.5);
    out += scaled >= 10000 ? "1." : "0.";
    const auto rest = std::to_string(scaled % 10000 + 10000);
    out.append(rest, 1);
}

void append_time(std::string& out, std::string_view lead, const MaybeTime& t) {
    out += lead;
    if (t) {
        out += '"';
        append_iso8601(out, *t);
        out += '"';
    } else {
        out += "null";
    }
}

void append_or_null(std::string& out, std::string_view text) {
    if (text.empty()) {
        out += "null";
    } else {
        append_escaped(out, text);
    }
}

/// RFC 4180. Unprintable characters are spelled out, so that a line is a line; on a terminal they are
/// replaced.
void append_csv_field(std::string& out, std::string_view text, bool on_terminal) {
    std::string harmless;
    if (!is_plain(text)) {
        harmless = on_terminal ? without_controls(text) : with_controls_spelled(text);
        text = harmless;
    }
    if (text.find_first_of(",\"") == std::string_view::npos) {
        out += text;
        return;
    }
    out += '"';
    for (const char c : text) {
        if (c == '"') out += c;
        out += c;
    }
    out += '"';
}

std::string_view yes_no(bool b) {
    return b ? "true" : "false";
}

}  // namespace

std::string chance_text(const ShelfEntry& e) {
    if (e.is_dir) return "";
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

std::vector<Column> columns_from(const std::vector<std::string>& names) {
    std::vector<Column> out;
    for (const auto& name : names) {
        const auto it = std::find_if(all_columns().begin(), all_columns().end(),
                                     [&](const Column& c) { return c.name == name; });
        if (it == all_columns().end()) {
            std::vector<std::string> known;
            for (const auto& c : all_columns()) known.push_back(c.name);
            throw Error(Trouble::usage, fmt::format("There is no column `{}`; the columns are {}.", name,
                                                    fmt::join(known, ", ")));
        }
        out.push_back(*it);
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
        std::transform(name.begin(), name.end(), name.begin(),
                       [](char c) { return static_cast<char>(std::toupper(static_cast<unsigned char>(c))); });
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

std::string csv_heading() {
    return "id,volume,origin,path,name,stream,name_certainty,is_dir,system,helper,binned,first_path,kind,ext,"
           "size,"
           "grade,chance,left,layout,created,modified,accessed,deleted,format,checked,complete,holds_to,"
           "proven_to,marked";
}

void append_csv(std::string& out, const ShelfEntry& e, bool on_terminal) {
    const auto comma = [&] { out += ','; };
    const auto text = [&](std::string_view t) {
        comma();
        append_csv_field(out, t, on_terminal);
    };
    const auto time = [&](const MaybeTime& t) {
        comma();
        if (t) append_iso8601(out, *t);
    };
    append_number(out, e.id);
    comma();
    if (e.volume) append_number(out, *e.volume);
    text(word(e.origin));
    text(e.path());
    for (const auto t : {std::string_view(e.name), std::string_view(e.stream), word(e.name_certainty),
                         yes_no(e.is_dir), yes_no(e.system), yes_no(e.helper), yes_no(e.binned),
                         std::string_view(e.first_path), word(e.kind), std::string_view(e.ext)})
        text(t);
    comma();
    append_number(out, static_cast<std::int64_t>(e.size));
    text(word(e.rating.grade));
    comma();
    append_share(out, e.rating.chance);
    comma();
    append_share(out, e.rating.left);
    text(word(e.layout));
    for (const auto* t : {&e.created, &e.modified, &e.accessed, &e.deleted}) time(*t);
    text(e.format);
    text(checked_word(e));
    text(e.complete ? yes_no(*e.complete) : "");
    comma();
    if (e.holds_to) append_number(out, static_cast<std::int64_t>(*e.holds_to));
    comma();
    append_number(out, static_cast<std::int64_t>(e.proven_to));
    text(yes_no(e.marked));
    out += '\n';
}

void append_json(std::string& out, const ShelfEntry& e) {
    const auto flag = [&](std::string_view lead, bool value) {
        out += lead;
        out += yes_no(value);
    };
    const auto text = [&](std::string_view lead, std::string_view value) {
        out += lead;
        append_escaped(out, value);
    };
    const auto optional = [&](std::string_view lead, std::string_view value) {
        out += lead;
        append_or_null(out, value);
    };
    out += "{\"id\":";
    append_number(out, e.id);
    out += ",\"volume\":";
    e.volume ? append_number(out, *e.volume) : void(out += "null");
    text(",\"origin\":", word(e.origin));
    text(",\"path\":", e.path());
    text(",\"name\":", e.name);
    optional(",\"stream\":", e.stream);
    text(",\"name_certainty\":", word(e.name_certainty));
    flag(",\"is_dir\":", e.is_dir);
    flag(",\"system\":", e.system);
    flag(",\"helper\":", e.helper);
    flag(",\"binned\":", e.binned);
    optional(",\"first_path\":", e.first_path);
    out += ",\"earlier_names\":[";
    for (const auto& name : e.earlier_names) {
        if (out.back() != '[') out += ',';
        append_escaped(out, name);
    }
    out += ']';
    text(",\"kind\":", word(e.kind));
    text(",\"ext\":", e.ext);
    out += ",\"size\":";
    append_number(out, static_cast<std::int64_t>(e.size));
    optional(",\"grade\":", word(e.rating.grade));
    out += ",\"chance\":";
    append_share(out, e.rating.chance);
    out += ",\"left\":";
    append_share(out, e.rating.left);
    text(",\"layout\":", word(e.layout));
    append_time(out, ",\"created\":", e.created);
    append_time(out, ",\"modified\":", e.modified);
    append_time(out, ",\"accessed\":", e.accessed);
    append_time(out, ",\"deleted\":", e.deleted);
    optional(",\"dates\":", e.dates == Dates::argued     ? "argued"
                            : e.dates == Dates::inside   ? "inside"
                            : e.dates == Dates::recorded ? "recorded"
                                                         : "");
    optional(",\"format\":", e.format);
    optional(",\"checked\":", checked_word(e));
    out += ",\"complete\":";
    out += e.complete ? yes_no(*e.complete) : "null";
    out += ",\"holds_to\":";
    e.holds_to ? append_number(out, static_cast<std::int64_t>(*e.holds_to)) : void(out += "null");
    out += ",\"proven_to\":";
    append_number(out, static_cast<std::int64_t>(e.proven_to));
    flag(",\"marked\":", e.marked);
    out += "}\n";
}

}  // namespace undershelf::cli
