#include "cli/column_writer.hpp"

#include <algorithm>

#include "base/printable.hpp"
#include "cli/output.hpp"

namespace undershelf::cli {

namespace {

constexpr int gap = 2;
/// A column of names is never narrower, however narrow the terminal is.
constexpr int narrowest = 16;
/// For a name after lines that leave none.
constexpr int least_room = 8;
/// More rows than anybody looks at; and what nobody notices.
constexpr std::size_t most_held = 2000;
constexpr std::chrono::milliseconds longest_held{100};

int width_of(const ColumnWriter::Cell& cell) {
    return columns_of(cell.lead) + columns_of(cell.text) + columns_of(cell.note);
}

}  // namespace

ColumnWriter::ColumnWriter(const Terminal& terminal, std::vector<Head> heads)
    : terminal_(terminal), heads_(std::move(heads)) {
    for (std::size_t i = 0; i < heads_.size(); ++i) {
        holds_back_ |= heads_[i].width == 0 && i + 1 < heads_.size();
        wanted_.push_back(std::max(heads_[i].width, columns_of(heads_[i].title)));
        widths_.push_back(wanted_.back());
    }
    // The last one has all that is left.
    if (!heads_.empty() && heads_.back().width == 0) wanted_.back() = terminal_.width();
}

void ColumnWriter::row(const std::vector<Cell>& cells) {
    if (!released_) return hold({cells, {}});
    if (holds_back_) widen(cells);
    write(cells);
}

void ColumnWriter::line(const std::string& text, Style style) {
    auto styled = terminal_.styled(fitted(text, terminal_.width()), style) + "\n";
    if (!released_) return hold({{}, std::move(styled)});
    write_out(styled);
}

void ColumnWriter::hold(Held&& held) {
    const auto now = std::chrono::steady_clock::now();
    if (held_.empty()) first_ = now;
    held_.push_back(std::move(held));
    if (!holds_back_ || held_.size() >= most_held || now - first_ > longest_held) release();
}

void ColumnWriter::finish() {
    if (!held_.empty()) release();
}

void ColumnWriter::release() {
    for (const auto& held : held_) {
        if (!held.cells.empty()) widen(held.cells);
    }
    share_room();
    if (!released_) write_heading();
    for (const auto& held : held_) held.cells.empty() ? write_out(held.line) : write(held.cells);
    held_.clear();
    held_.shrink_to_fit();
    released_ = true;
}

void ColumnWriter::widen(const std::vector<Cell>& cells) {
    bool wider = false;
    for (std::size_t i = 0; i < heads_.size(); ++i) {
        if (heads_[i].width) continue;
        const int needed = width_of(cells[i]);
        if (needed <= wanted_[i]) continue;
        wanted_[i] = needed;
        wider = true;
    }
    if (wider && released_) share_room();
}

/// Those that want less than their share leave it to the others.
void ColumnWriter::share_room() {
    std::vector<std::size_t> open;
    int room = terminal_.width() - gap * (static_cast<int>(heads_.size()) - 1);
    for (std::size_t i = 0; i < heads_.size(); ++i) {
        if (heads_[i].width == 0)
            open.push_back(i);
        else
            room -= widths_[i];
    }
    std::sort(open.begin(), open.end(), [&](auto a, auto b) { return wanted_[a] < wanted_[b]; });
    for (std::size_t left = open.size(); const auto i : open) {
        widths_[i] = std::min(wanted_[i], std::max(narrowest, room / static_cast<int>(left)));
        room -= widths_[i];
        --left;
    }
}

void ColumnWriter::write_heading() const {
    std::string line;
    for (std::size_t i = 0; i < heads_.size(); ++i)
        line += (i ? "  " : "") + padded(heads_[i].title, widths_[i], heads_[i].to_right);
    line.erase(line.find_last_not_of(' ') + 1);
    write_out(terminal_.styled(line, Style::dim) + "\n");
}

void ColumnWriter::write(const std::vector<Cell>& cells) {
    line_.clear();
    for (std::size_t i = 0; i < heads_.size(); ++i) {
        if (i) line_.append(gap, ' ');
        append(cells[i], i);
    }
    if (!terminal_.color()) line_.erase(line_.find_last_not_of(' ') + 1);
    line_ += '\n';
    write_out(line_);
}

void ColumnWriter::append(const Cell& cell, std::size_t column) {
    const auto width = static_cast<std::size_t>(widths_[column]);
    const bool to_right = heads_[column].to_right, last = column + 1 == heads_.size() && !to_right;
    // Most cells are plain, and lists have millions of them.
    if (!terminal_.color() && cell.lead.empty() && cell.note.empty() && cell.text.size() <= width &&
        is_plain(cell.text)) {
        const auto blanks = last ? 0 : width - cell.text.size();
        if (to_right) line_.append(blanks, ' ');
        line_ += cell.text;
        if (!to_right) line_.append(blanks, ' ');
        return;
    }
    int room = std::max(to_right ? 0 : least_room, widths_[column] - columns_of(cell.lead));
    const auto text = fitted(cell.text, room);
    room -= columns_of(text);
    // What is said of a name is left out where there is no room for it.
    const auto note = columns_of(cell.note) <= room ? std::string_view(cell.note) : std::string_view();
    room -= columns_of(note);
    const auto blanks = static_cast<std::size_t>(std::max(0, last ? 0 : room));
    if (to_right) line_.append(blanks, ' ');
    line_ += terminal_.styled(cell.lead, Style::dim);
    line_ += terminal_.styled(text, cell.style);
    line_ += terminal_.styled(note, Style::dim);
    if (!to_right) line_.append(blanks, ' ');
}

}  // namespace undershelf::cli
