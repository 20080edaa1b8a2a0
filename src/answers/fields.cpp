#include "answers/fields.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <charconv>
#include <iterator>

#include "base/error.hpp"
#include "base/nearest.hpp"
#include "base/printable.hpp"
#include "content/format.hpp"
#include "volume/words.hpp"

namespace undershelf {

namespace {

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

/// With one decimal.
void append_tenths(std::string& out, double value) {
    out += fmt::format("{:.1f}", std::clamp(value, 0.0, 1e15));
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

std::string_view word_of(bool b) {
    return b ? "true" : "false";
}

class JsonWriter final : public FieldWriter {
  public:
    explicit JsonWriter(std::string& out) : out_(out) {}
    void text(std::string_view value) override { append_json_text(out_, value); }
    void optional(std::string_view value) override { value.empty() ? none() : text(value); }
    void number(std::int64_t value) override { append_number(out_, value); }
    void none() override { out_ += "null"; }
    void share(double value) override { append_share(out_, value); }
    void real(double value) override { append_tenths(out_, value); }
    void flag(bool value) override { out_ += word_of(value); }
    void time(const MaybeTime& value) override {
        if (!value) return none();
        out_ += '"';
        append_iso8601(out_, *value);
        out_ += '"';
    }
    void list(const std::vector<std::string>& values) override {
        out_ += '[';
        for (std::size_t i = 0; i < values.size(); ++i) {
            if (i) out_ += ',';
            text(values[i]);
        }
        out_ += ']';
    }

  private:
    std::string& out_;
};

class CsvWriter final : public FieldWriter {
  public:
    CsvWriter(std::string& out, bool on_terminal) : out_(out), on_terminal_(on_terminal) {}
    void text(std::string_view value) override { append_csv_field(out_, value, on_terminal_); }
    void optional(std::string_view value) override { text(value); }
    void number(std::int64_t value) override { append_number(out_, value); }
    void none() override {}
    void share(double value) override { append_share(out_, value); }
    void real(double value) override { append_tenths(out_, value); }
    void flag(bool value) override { out_ += word_of(value); }
    void time(const MaybeTime& value) override {
        if (value) append_iso8601(out_, *value);
    }
    void list(const std::vector<std::string>& values) override {
        text(fmt::format("{}", fmt::join(values, "; ")));
    }

  private:
    std::string& out_;
    bool on_terminal_;
};

std::string_view word_of(Dates dates) {
    return dates == Dates::argued     ? "argued"
           : dates == Dates::inside   ? "inside"
           : dates == Dates::recorded ? "recorded"
                                      : "";
}

std::string_view word_of(Rated rated) {
    return rated == Rated::yes ? "yes" : rated == Rated::not_copied ? "not_copied" : "not_yet";
}

void put_maybe(FieldWriter& w, const std::optional<std::uint64_t>& value) {
    value ? w.number(static_cast<std::int64_t>(*value)) : w.none();
}

const std::vector<Field>& contract() {
    using W = FieldWriter;
    using E = ShelfEntry;
    static const std::vector<Field> fields{
        {"id", [](W& w, const E& e) { w.number(e.id); }},
        {"volume", [](W& w, const E& e) { e.volume ? w.number(*e.volume) : w.none(); }},
        {"origin", [](W& w, const E& e) { w.text(word(e.origin)); }},
        {"path", [](W& w, const E& e) { w.text(e.path()); }},
        {"name", [](W& w, const E& e) { w.text(e.name); }},
        {"stream", [](W& w, const E& e) { w.optional(e.stream); }},
        {"name_certainty", [](W& w, const E& e) { w.text(word(e.name_certainty)); }},
        {"is_dir", [](W& w, const E& e) { w.flag(e.is_dir); }},
        {"system", [](W& w, const E& e) { w.flag(e.system); }},
        {"helper", [](W& w, const E& e) { w.flag(e.helper); }},
        {"binned", [](W& w, const E& e) { w.flag(e.binned); }},
        {"first_path", [](W& w, const E& e) { w.optional(e.first_path); }},
        {"earlier_names", [](W& w, const E& e) { w.list(e.earlier_names); }, When::json},
        {"attributes", [](W& w, const E& e) { w.list(attribute_words(e.attributes)); }, When::asked},
        {"kind", [](W& w, const E& e) { w.text(word(e.kind)); }},
        {"ext", [](W& w, const E& e) { w.text(e.ext); }},
        {"size", [](W& w, const E& e) { w.number(static_cast<std::int64_t>(e.size)); }},
        {"grade", [](W& w, const E& e) { w.optional(word(e.rating.grade)); }},
        {"chance", [](W& w, const E& e) { e.rated == Rated::yes ? w.share(e.rating.chance) : w.none(); }},
        {"left", [](W& w, const E& e) { w.share(e.rating.left); }},
        {"rated", [](W& w, const E& e) { w.text(word_of(e.rated)); }, When::json},
        {"layout", [](W& w, const E& e) { w.text(word(e.layout)); }},
        {"created", [](W& w, const E& e) { w.time(e.created); }},
        {"modified", [](W& w, const E& e) { w.time(e.modified); }},
        {"accessed", [](W& w, const E& e) { w.time(e.accessed); }},
        {"deleted", [](W& w, const E& e) { w.time(e.deleted); }},
        {"dates", [](W& w, const E& e) { w.optional(word_of(e.dates)); }, When::json},
        {"format", [](W& w, const E& e) { w.optional(e.format); }},
        {"checked", [](W& w, const E& e) { w.optional(checked_word(e)); }},
        {"complete", [](W& w, const E& e) { e.complete ? w.flag(*e.complete) : w.none(); }},
        {"holds_to", [](W& w, const E& e) { put_maybe(w, e.holds_to); }},
        {"proven_to", [](W& w, const E& e) { w.number(static_cast<std::int64_t>(e.proven_to)); }},
        {"marked", [](W& w, const E& e) { w.flag(e.marked); }},
        {"marks", [](W& w, const E& e) { w.list(e.marks); }, When::asked},
        {"exported", [](W& w, const E& e) { e.is_dir ? w.none() : w.flag(e.exported); }, When::asked},
        {"pixels", [](W& w, const E& e) { w.optional(e.details.pixels); }, When::asked},
        {"seconds", [](W& w, const E& e) { e.details.seconds ? w.real(*e.details.seconds) : w.none(); },
         When::asked},
        {"pages", [](W& w, const E& e) { e.details.pages ? w.number(*e.details.pages) : w.none(); },
         When::asked},
        {"title", [](W& w, const E& e) { w.optional(e.title); }, When::asked},
        {"camera", [](W& w, const E& e) { w.optional(e.details.camera); }, When::asked},
        {"link", [](W& w, const E& e) { e.link ? w.text(e.target()) : w.none(); }},
    };
    return fields;
}

constexpr std::pair<std::string_view, std::string_view> earlier_names[] = {{"mark", "marked"},
                                                                           {"certainty", "name_certainty"}};
/// Columns of the table that show a field in another way.
constexpr std::pair<std::string_view, std::string_view> shown_as[] = {{"bytes", "size"}, {"place", "path"}};

}  // namespace

std::string field_name(std::string name) {
    std::replace(name.begin(), name.end(), '-', '_');
    for (const auto& [earlier, now] : earlier_names) {
        if (name == earlier) name = now;
    }
    return name;
}

/// How strongly the content was checked; empty where it was not.
std::string_view checked_word(const ShelfEntry& e) {
    return e.checked && *e.checked ? word(static_cast<Strength>(*e.checked)) : std::string_view();
}

Fields fields_from(const std::vector<std::string>& names) {
    Fields out;
    for (const auto& name : names) {
        auto wanted = field_name(name);
        for (const auto& [column, field] : shown_as) {
            if (wanted == column) wanted = field;
        }
        const auto& all = contract();
        const auto it =
            std::find_if(all.begin(), all.end(), [&](const Field& f) { return f.name == wanted; });
        if (it == all.end()) {
            std::vector<std::string> known;
            for (const auto& f : all) known.push_back(f.name);
            throw Error(Trouble::usage, fmt::format("There is no field `{}`.{} The fields are {}.", name,
                                                    did_you_mean(wanted, known), fmt::join(known, ", ")));
        }
        if (std::find(out.begin(), out.end(), &*it) != out.end())
            throw Error(Trouble::usage, fmt::format("--columns asks for the field `{}` twice.", it->name));
        out.push_back(&*it);
    }
    return out;
}

Fields all_fields(bool json) {
    Fields out;
    for (const auto& f : contract()) {
        if (f.when == When::always || (json && f.when == When::json)) out.push_back(&f);
    }
    return out;
}

With needed_for(const std::vector<std::string>& names) {
    constexpr std::string_view few[] = {"marks", "exported", "pixels", "seconds", "pages", "title", "camera"};
    const bool any = std::any_of(names.begin(), names.end(), [&](const std::string& name) {
        return std::find(std::begin(few), std::end(few), field_name(name)) != std::end(few);
    });
    return any ? With::all : With::most;
}

std::string csv_heading(const Fields& fields) {
    std::string out;
    for (const auto* f : fields) out += (out.empty() ? "" : ",") + f->name;
    return out;
}

void append_csv_text(std::string& out, std::string_view text, bool on_terminal) {
    append_csv_field(out, text, on_terminal);
}

void append_csv(std::string& out, const ShelfEntry& e, const Fields& fields, bool on_terminal) {
    CsvWriter writer(out, on_terminal);
    for (std::size_t i = 0; i < fields.size(); ++i) {
        if (i) out += ',';
        fields[i]->put(writer, e);
    }
    out += '\n';
}

void append_json(std::string& out, const ShelfEntry& e, const Fields& fields) {
    JsonWriter writer(out);
    out += '{';
    for (std::size_t i = 0; i < fields.size(); ++i) {
        out += i ? ",\"" : "\"";
        out += fields[i]->name;
        out += "\":";
        fields[i]->put(writer, e);
    }
    out += "}\n";
}

}  // namespace undershelf
