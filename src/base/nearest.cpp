#include "base/nearest.hpp"

#include <algorithm>

#include "base/text.hpp"

namespace undershelf {

namespace {

/// Nobody types longer words by mistake.
constexpr std::size_t longest = 64;

std::size_t distance(std::string_view a, std::string_view b) {
    std::vector<std::size_t> before_last(b.size() + 1), last(b.size() + 1), row(b.size() + 1);
    for (std::size_t j = 0; j <= b.size(); ++j) last[j] = j;
    for (std::size_t i = 1; i <= a.size(); ++i) {
        row[0] = i;
        for (std::size_t j = 1; j <= b.size(); ++j) {
            row[j] = std::min({last[j] + 1, row[j - 1] + 1, last[j - 1] + (a[i - 1] != b[j - 1])});
            if (i > 1 && j > 1 && a[i - 1] == b[j - 2] && a[i - 2] == b[j - 1])
                row[j] = std::min(row[j], before_last[j - 2] + 1);
        }
        std::swap(before_last, last);
        std::swap(last, row);
    }
    return last[b.size()];
}

}  // namespace

std::string nearest(std::string_view word, const std::vector<std::string>& known) {
    if (word.empty() || word.size() > longest) return {};
    const auto wanted = folded(word);
    const auto begins = [&](const std::string& k) { return k.starts_with(wanted); };
    if (std::count_if(known.begin(), known.end(), begins) == 1)
        return *std::find_if(known.begin(), known.end(), begins);
    std::string out;
    auto best = std::max<std::size_t>(1, wanted.size() / 3) + 1;
    for (const auto& k : known) {
        const auto d = distance(wanted, k);
        // As far as it is long it would have nothing in common.
        if (d >= best || d >= k.size()) continue;
        best = d;
        out = k;
    }
    return out;
}

std::string did_you_mean(std::string_view word, const std::vector<std::string>& known) {
    const auto near = nearest(word, known);
    return near.empty() ? std::string() : " Did you mean `" + near + "`?";
}

}  // namespace undershelf
