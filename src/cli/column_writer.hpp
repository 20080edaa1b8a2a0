#pragma once
// A table that is written row by row as its rows come, on a terminal as wide as it may be.

#include <chrono>
#include <string>
#include <vector>

#include "cli/terminal.hpp"

namespace undershelf::cli {

class ColumnWriter {
  public:
    struct Head {
        std::string title;
        int width = 0;  ///< 0: as wide as its longest text
        bool to_right = false;
    };
    struct Cell {
        std::string lead;  ///< before the text, dim: the lines of a tree
        std::string text;
        Style style = Style::plain;
        std::string note;  ///< after it, dim
    };

    /// Where a column's width depends on its texts, and others are to the right of it, the first rows are
    /// held back until so many are there, or a moment has passed; what comes later may push the others aside.
    ColumnWriter(const Terminal& terminal, std::vector<Head> heads);
    /// As many cells as heads.
    void row(const std::vector<Cell>& cells);
    /// A line of its own between rows.
    void line(const std::string& text, Style style);
    /// Holds back nothing any more.
    void release();
    /// Writes what is held back. Nothing at all where no row came.
    void finish();

  private:
    struct Held {
        std::vector<Cell> cells;  ///< of a row; none of a line of its own
        std::string line;
    };
    void hold(Held&& held);
    void widen(const std::vector<Cell>& cells);
    void share_room();
    void write_heading() const;
    void write(const std::vector<Cell>& cells);
    void append(const Cell& cell, std::size_t column);

    const Terminal& terminal_;
    std::vector<Head> heads_;
    std::vector<int> wanted_, widths_;
    std::vector<Held> held_;
    bool holds_back_ = false, released_ = false;
    std::string line_;  ///< that is written next
    std::chrono::steady_clock::time_point first_;
};

}  // namespace undershelf::cli
