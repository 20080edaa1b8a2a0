#include "base/number_lines.hpp"

#include <sstream>

namespace undershelf {

NumberLines::NumberLines(const std::string& text) {
    std::istringstream in(text);
    for (std::string line; std::getline(in, line);) {
        std::istringstream words(line);
        std::string word;
        Numbers numbers;
        words >> word;
        for (std::uint64_t n; words >> n;) numbers.push_back(n);
        if (!word.empty() && words.eof()) add(word, std::move(numbers));
    }
}

std::string NumberLines::text() const {
    std::string out;
    for (const auto& [word, numbers] : lines_) {
        out += word;
        for (const auto n : numbers) {
            out += ' ';
            out += std::to_string(n);
        }
        out += '\n';
    }
    return out;
}

std::optional<std::uint64_t> NumberLines::one(const std::string& word) const {
    const auto lines = all(word, 1);
    return lines.empty() ? std::nullopt : std::optional(lines.front().front());
}

std::vector<NumberLines::Numbers> NumberLines::all(const std::string& word, std::size_t count) const {
    std::vector<Numbers> out;
    for (const auto& [w, numbers] : lines_) {
        if (w == word && numbers.size() == count) out.push_back(numbers);
    }
    return out;
}

}  // namespace undershelf
