#pragma once
// The terminal: how wide it is, whether it takes colour, and text fitted into columns.

#include <string>
#include <string_view>
#include <vector>

#include "base/amounts.hpp"
#include "base/text.hpp"

namespace undershelf::cli {

enum class ColorChoice { automatic, always, never };

/// One hue from pale to strong, and the terminal's own dim and bold. Nothing when colour is off.
enum class Style { plain, dim, bold, pale, middle, strong };

class Terminal {
  public:
    /// Looks at standard output; NO_COLOR and `choice` decide on colour.
    explicit Terminal(ColorChoice choice = ColorChoice::automatic);
    bool color() const { return color_; }
    /// Columns of standard output; a generous width when it is no terminal.
    int width() const { return width_; }
    bool interactive() const { return interactive_; }
    std::string styled(std::string_view text, Style style) const;

  private:
    bool interactive_ = false;
    bool color_ = false;
    int width_ = 0;
};

/// Columns that text takes on a terminal: East Asian wide characters two, combining marks none.
int columns_of(std::string_view text);
/// Cut in the middle to at most `width` columns, with `…`, control characters shown as `?`.
std::string fitted(std::string_view text, int width);
/// The same, filled up with blanks on the right (or on the left).
std::string padded(std::string_view text, int width, bool to_right = false);
/// Broken into lines of at most `width` columns at blanks.
std::vector<std::string> wrapped(std::string_view text, int width);

}  // namespace undershelf::cli
