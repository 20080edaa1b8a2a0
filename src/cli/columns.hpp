#pragma once
// The columns that a table of entries can have, and its rows.

#include <string>
#include <vector>

#include "answers/fields.hpp"
#include "cli/column_writer.hpp"
#include "cli/terminal.hpp"
#include "shelf/shelf.hpp"

namespace undershelf::cli {

struct Column {
    std::string name;
    int width;  ///< on a terminal; 0: as wide as its longest text
    bool to_right = false;
    std::string (*text)(const ShelfEntry&);
    Style (*style)(const ShelfEntry&) = nullptr;
};

/// Throws Error(usage) for a name that no column has.
void check_column_names(const std::vector<std::string>& names);
/// Columns by name. Throws Error(usage).
std::vector<Column> columns_from(const std::vector<std::string>& names, const Shelf& shelf);
const std::vector<std::string>& default_columns();
/// Without those that a narrow terminal has no room for, least wanted first.
std::vector<Column> fitting(std::vector<Column> columns, int width);

/// Writes entries as rows of a table that fits `terminal`.
class TableWriter {
  public:
    TableWriter(const Terminal& terminal, std::vector<Column> columns);
    void row(const ShelfEntry& entry);
    void finish() { writer_.finish(); }

  private:
    std::vector<Column> columns_;
    ColumnWriter writer_;
    std::vector<ColumnWriter::Cell> cells_;
};

/// Columns that grades take: more while some entries have none yet.
int grade_width(const Shelf& shelf);
/// `0.97` style text of a chance, with `<0.01` and `>0.99` instead of false zeros and ones.
std::string chance_text(const ShelfEntry& entry);
Style grade_style(const ShelfEntry& entry);

}  // namespace undershelf::cli
