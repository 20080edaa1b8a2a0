#include "report/wanted.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <deque>
#include <map>

#include "base/error.hpp"
#include "base/printable.hpp"
#include "base/text.hpp"

namespace undershelf {

/// All words at once (A. V. Aho, M. J. Corasick, "Efficient string matching", 1975): a text is read once.
struct WantedList::Words {
    struct Node {
        std::map<char, std::uint32_t> next;
        std::uint32_t fall = 0;     ///< where it goes on when no more letters fit
        std::uint32_t shorter = 0;  ///< the next one that ends a word, on the way of `fall`; 0 for none
        std::vector<std::size_t> lines;
    };
    std::vector<Node> nodes{1};

    void add(const std::string& word, std::size_t line) {
        std::uint32_t at = 0;
        for (const char c : word) {
            const auto [it, fresh] = nodes[at].next.emplace(c, static_cast<std::uint32_t>(nodes.size()));
            const auto to = it->second;
            if (fresh) nodes.emplace_back();
            at = to;
        }
        nodes[at].lines.push_back(line);
    }

    void link() {
        std::deque<std::uint32_t> open{0};
        while (!open.empty()) {
            const auto at = open.front();
            open.pop_front();
            for (const auto& [c, to] : nodes[at].next) {
                open.push_back(to);
                if (at == 0) continue;
                nodes[to].fall = step(nodes[at].fall, c);
                const auto fall = nodes[to].fall;
                nodes[to].shorter = nodes[fall].lines.empty() ? nodes[fall].shorter : fall;
            }
        }
    }

    std::uint32_t step(std::uint32_t at, char c) const {
        for (;; at = nodes[at].fall) {
            const auto it = nodes[at].next.find(c);
            if (it != nodes[at].next.end()) return it->second;
            if (at == 0) return 0;
        }
    }

    template <class Visit>
    void find(std::string_view text, const Visit& visit) const {
        std::uint32_t at = 0;
        for (const char c : text) {
            at = step(at, c);
            for (auto hit = at; hit != 0; hit = nodes[hit].shorter)
                for (const auto line : nodes[hit].lines) visit(line);
        }
    }
};

namespace {

bool is_pattern(std::string_view text) {
    return text.find_first_of("*?") != text.npos;
}

/// The longest part without wildcards; empty where there are none but these.
std::string longest_part(std::string_view pattern) {
    std::string_view best;
    for (std::size_t at = 0; at < pattern.size();) {
        const auto end = std::min(pattern.find_first_of("*?[]", at), pattern.size());
        if (end - at > best.size()) best = pattern.substr(at, end - at);
        at = end + 1;
    }
    return std::string(best);
}

}  // namespace

WantedList::WantedList(std::istream& in, const std::string& file) : words_(std::make_unique<Words>()) {
    constexpr std::size_t most_lines = 100'000, longest = 4096;
    std::string line;
    for (std::size_t number = 1; std::getline(in, line); ++number) {
        if (number == 1 && line.starts_with("\xEF\xBB\xBF")) line.erase(0, 3);
        const auto end = line.find_last_not_of(" \t\r");
        line.resize(end == line.npos ? 0 : end + 1);
        line.erase(0, std::min(line.find_first_not_of(" \t"), line.size()));
        if (line.empty() || line.front() == '#') continue;
        if (line.size() > longest || lines_.size() == most_lines)
            throw Error(Trouble::usage,
                        fmt::format("{}, line {}: a list of what is wanted has {} lines of {} bytes at most.",
                                    file, number, most_lines, longest));
        lines_.push_back({without_controls(line), 0, {}, {}});
        folded_.push_back(folded(line));
        const auto word = is_pattern(folded_.back()) ? longest_part(folded_.back()) : folded_.back();
        words_->add(word, lines_.size() - 1);
    }
    words_->link();
    seen_.resize(lines_.size(), 0);
}

WantedList::~WantedList() = default;

void WantedList::look_at(const ShelfEntry& entry) {
    ++looked_;
    const auto name = folded(entry.shown_name()), path = folded(entry.shown_path());
    words_->find(path, [&](std::size_t line) { found(line, entry, name, path); });
    // Patterns of wildcards alone fit by themselves.
    for (const auto line : words_->nodes.front().lines) found(line, entry, name, path);
}

void WantedList::found(std::size_t line, const ShelfEntry& entry, const std::string& name,
                       const std::string& path) {
    if (seen_[line] == looked_) return;
    const auto& wanted = folded_[line];
    const auto& text = wanted.find('/') == wanted.npos ? name : path;
    const bool fits = is_pattern(wanted) ? matches_glob(text, wanted) : text.find(wanted) != text.npos;
    if (!fits) return;
    seen_[line] = looked_;
    auto& out = lines_[line];
    if (out.files++ == 0 || entry.rating.grade > out.best) {
        out.best = entry.rating.grade;
        out.path = entry.shown_path();
    }
}

}  // namespace undershelf
