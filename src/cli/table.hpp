#pragma once
// A small table that is known whole before it is printed. Where the terminal is too narrow for its columns
// each row becomes a few lines.

#include <string>
#include <vector>

#include "cli/terminal.hpp"

namespace undershelf::cli {

class Table {
  public:
    struct Head {
        std::string title;
        int width;  ///< at least; wider cells push the rest aside
        bool to_right = false;
    };
    Table(const Terminal& terminal, std::vector<Head> heads);
    /// A cell of `-` says nothing, and is left out of a narrow form.
    void row(std::vector<std::string> cells);
    void print() const;

  private:
    void print_wide() const;
    void print_stacked() const;

    const Terminal& terminal_;
    std::vector<Head> heads_;
    std::vector<std::vector<std::string>> rows_;
};

/// A list of sentences under a title, each wrapped after its dash; nothing where there are none.
/// Points below a title; nothing at all where there are no points.
void print_points(const Terminal& terminal, const std::string& title, const std::vector<std::string>& points);
/// The same without a title.
void print_points(const Terminal& terminal, const std::vector<std::string>& points,
                  Style style = Style::plain);

}  // namespace undershelf::cli
