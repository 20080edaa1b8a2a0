#pragma once
// Lines of a word and numbers, such as `stretch 4096 512`: how what was worked out once is kept as text.

#include <cstdint>
#include <optional>
#include <string>
#include <utility>
#include <vector>

namespace undershelf {

class NumberLines {
  public:
    using Numbers = std::vector<std::uint64_t>;

    NumberLines() = default;
    /// Lines that are none are left out.
    explicit NumberLines(const std::string& text);

    void add(const std::string& word, Numbers numbers) { lines_.emplace_back(word, std::move(numbers)); }
    std::string text() const;

    /// The only number of the first line with this word.
    std::optional<std::uint64_t> one(const std::string& word) const;
    /// The numbers of all lines with this word that have exactly `count` of them.
    std::vector<Numbers> all(const std::string& word, std::size_t count) const;

  private:
    std::vector<std::pair<std::string, Numbers>> lines_;
};

}  // namespace undershelf
