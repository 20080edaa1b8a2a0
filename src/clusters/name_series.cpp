#include "clusters/name_series.hpp"

#include <algorithm>
#include <cstdint>
#include <optional>
#include <string>
#include <vector>

namespace undershelf::clusters {

namespace {

constexpr std::size_t most_digits = 15;

bool is_digit(char c) {
    return c >= '0' && c <= '9';
}

/// A name as what is between its numbers, and these.
struct Parts {
    std::string text;  ///< each number as one '0'
    std::vector<std::int64_t> numbers;
};

std::optional<Parts> parts_of(std::string_view name) {
    Parts out;
    for (std::size_t i = 0; i < name.size();) {
        if (!is_digit(name[i])) {
            out.text += name[i++];
            continue;
        }
        std::int64_t number = 0;
        const auto first = i;
        for (; i < name.size() && is_digit(name[i]); ++i) {
            if (i - first == most_digits) return std::nullopt;
            number = number * 10 + (name[i] - '0');
        }
        out.text += '0';
        out.numbers.push_back(number);
    }
    return out;
}

}  // namespace

bool series_goes_on(std::string_view before_last, std::string_view last, std::string_view next) {
    const auto a = parts_of(before_last), b = parts_of(last), c = parts_of(next);
    if (!a || !b || !c || a->text != b->text || b->text != c->text) return false;
    const auto [x, y] = std::mismatch(a->numbers.begin(), a->numbers.end(), b->numbers.begin());
    if (x == a->numbers.end()) return false;
    const auto at = static_cast<std::size_t>(x - a->numbers.begin());
    const auto step = *y - *x;
    for (const auto steps : {1, 2}) {
        auto expected = b->numbers;
        expected[at] += steps * step;
        if (expected == c->numbers) return true;
    }
    return false;
}

}  // namespace undershelf::clusters
