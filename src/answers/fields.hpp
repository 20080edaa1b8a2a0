#pragma once
// The fields of the output contract: what CSV and JSON lines have of an entry, all of them or some.

#include <string>
#include <vector>

#include "shelf/shelf.hpp"

namespace undershelf {

/// Writes one value after another, in the form of its format.
class FieldWriter {
  public:
    virtual ~FieldWriter() = default;
    virtual void text(std::string_view value) = 0;
    /// Empty for none.
    virtual void optional(std::string_view value) = 0;
    virtual void number(std::int64_t value) = 0;
    virtual void none() = 0;
    /// From 0 to 1, with four decimals.
    virtual void share(double value) = 0;
    /// With one decimal.
    virtual void real(double value) = 0;
    virtual void flag(bool value) = 0;
    virtual void time(const MaybeTime& value) = 0;
    virtual void list(const std::vector<std::string>& values) = 0;
};

/// Where no fields are asked for: in CSV and JSON, in JSON alone, or in none.
enum class When : std::uint8_t { always, json, asked };

struct Field {
    std::string name;
    void (*put)(FieldWriter&, const ShelfEntry&);
    When when = When::always;
};
using Fields = std::vector<const Field*>;

/// The one spelling of a field, column or sort key; earlier ones are still taken: dashes, `mark`,
/// `certainty`.
std::string field_name(std::string name);

/// Fields by name, in this order; names of the table's columns are taken for the fields they show. Throws
/// Error(usage).
Fields fields_from(const std::vector<std::string>& names);
Fields all_fields(bool json);

/// What has to be read for these fields, or columns.
With needed_for(const std::vector<std::string>& names);

std::string csv_heading(const Fields& fields);
/// One line. Appends to `out`.
void append_csv(std::string& out, const ShelfEntry& entry, const Fields& fields, bool on_terminal);
/// A field of its own.
void append_csv_text(std::string& out, std::string_view text, bool on_terminal = false);
/// One JSON object on one line. Appends to `out`.
void append_json(std::string& out, const ShelfEntry& entry, const Fields& fields);

/// How strongly the content was checked; empty where it was not.
std::string_view checked_word(const ShelfEntry& entry);

}  // namespace undershelf
