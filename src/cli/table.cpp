#include "cli/table.hpp"

#include <algorithm>

#include "base/printable.hpp"
#include "base/text.hpp"
#include "cli/output.hpp"

namespace undershelf::cli {

namespace {
std::string_view trimmed(std::string_view text) {
    const auto from = std::min(text.find_first_not_of(' '), text.size());
    return text.substr(from, text.find_last_not_of(' ') + 1 - from);
}
}  // namespace

Table::Table(const Terminal& terminal, std::vector<Head> heads)
    : terminal_(terminal), heads_(std::move(heads)) {}

void Table::row(std::vector<std::string> cells) {
    for (auto& cell : cells) cell = without_controls(cell);
    cells.resize(heads_.size());
    rows_.push_back(std::move(cells));
}

void Table::print() const {
    int needed = 0;
    for (const auto& h : heads_) needed += h.width;
    for (const auto& cells : rows_) {
        int sum = 0;
        for (std::size_t i = 0; i < cells.size(); ++i) sum += std::max(heads_[i].width, columns_of(cells[i]));
        needed = std::max(needed, sum);
    }
    needed <= terminal_.width() ? print_wide() : print_stacked();
}

void Table::print_wide() const {
    const auto line = [this](const auto& text_of) {
        std::string out;
        for (std::size_t i = 0; i < heads_.size(); ++i) {
            const std::string& text = text_of(i);
            out += padded(text, std::max(heads_[i].width, columns_of(text)), heads_[i].to_right);
        }
        out.erase(out.find_last_not_of(' ') + 1);
        return out;
    };
    cli::print("{}\n",
               terminal_.styled(line([this](std::size_t i) -> const std::string& { return heads_[i].title; }),
                                Style::dim));
    for (const auto& cells : rows_)
        cli::print("{}\n", line([&](std::size_t i) -> const std::string& { return cells[i]; }));
}

void Table::print_stacked() const {
    std::size_t widest = 0;
    for (const auto& h : heads_) widest = std::max(widest, h.title.size());
    for (const auto& cells : rows_) {
        cli::print("{} {}\n", terminal_.styled(folded(heads_[0].title), Style::dim), cells[0]);
        for (std::size_t i = 1; i < cells.size(); ++i) {
            if (cells[i].empty() || cells[i] == "-") continue;
            const auto label = padded(folded(trimmed(heads_[i].title)), static_cast<int>(widest));
            cli::print(
                "  {} {}\n", terminal_.styled(label, Style::dim),
                fitted(trimmed(cells[i]), std::max(8, terminal_.width() - static_cast<int>(widest) - 3)));
        }
    }
}

void print_points(const Terminal& terminal, const std::vector<std::string>& points, Style style) {
    for (const auto& point : points) {
        bool first = true;
        for (const auto& line : wrapped(without_controls(point), terminal.width() - 4)) {
            print("{} {}\n", first ? " -" : "  ", terminal.styled(line, style));
            first = false;
        }
    }
}

void print_points(const Terminal& terminal, const std::string& title,
                  const std::vector<std::string>& points) {
    if (points.empty()) return;
    print("\n{}\n", terminal.styled(title, Style::dim));
    print_points(terminal, points);
}

}  // namespace undershelf::cli
