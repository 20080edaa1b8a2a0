#pragma once
// What a customer asked for, a line each, and which files that may be.

#include <cstdint>
#include <istream>
#include <memory>
#include <string>
#include <vector>

#include "shelf/shelf.hpp"

namespace undershelf {

struct WantedLine {
    std::string text;         ///< as it was written
    std::uint64_t files = 0;  ///< that it fits
    Grade best{};             ///< of them
    std::string path;         ///< of that one
};

/// A line is a name, a part of one, or, with `*` or `?` in it, a pattern for a name; with `/` in it, for a
/// path. Case does not count.
class WantedList {
  public:
    /// Empty lines and those after a `#` are passed over, a byte order mark and CR as well. Throws
    /// Error(usage) for a list that is longer than any that people write.
    explicit WantedList(std::istream& in, const std::string& file);
    ~WantedList();

    /// Looks whether a file is one of them. Costs no more than its name is long, however many lines there
    /// are, but for patterns whose longest part without wildcards fits.
    void look_at(const ShelfEntry& entry);
    const std::vector<WantedLine>& lines() const { return lines_; }

  private:
    struct Words;
    void found(std::size_t line, const ShelfEntry& entry, const std::string& name, const std::string& path);

    std::vector<WantedLine> lines_;
    std::vector<std::string> folded_;  ///< beside lines_
    std::unique_ptr<Words> words_;
    std::uint64_t looked_ = 0;
    std::vector<std::uint64_t> seen_;  ///< by line: the number of the file that it was found in last
};

}  // namespace undershelf
