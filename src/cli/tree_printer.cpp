#include "cli/tree_printer.hpp"

#include <fmt/format.h>

#include "base/amounts.hpp"

namespace undershelf::cli {

namespace {

std::string counts_of(const FolderTotals& t) {
    if (t.files == 0) return {};
    return fmt::format("  {}, {} likely+", counted(t.files, "file", "files"), grouped(t.likely));
}

}  // namespace

TreePrinter::TreePrinter(const FolderTree& tree, std::vector<std::pair<Index, std::string>> titles,
                         unsigned depth, bool files, ColumnWriter& out, int most_lines)
    : tree_(tree),
      titles_(std::move(titles)),
      depth_(depth),
      files_(files),
      out_(out),
      most_lines_(most_lines) {
    std::vector<Index> roots;
    for (const auto& [root, title] : titles_) roots.push_back(root);
    order_ = tree_.leaving_order(roots, depth_ == ~0u ? depth_ : depth_ - 1);
    direct_.resize(tree_.size());
    for (Index i = 0; i < tree_.size(); ++i) {
        const auto& node = tree_.at(i);
        direct_[i] += node.totals.files;
        if (node.above != FolderTree::none) direct_[node.above] -= node.totals.files;
    }
}

/// Goes one step on: into a folder, or out of one. False once the walk is over.
bool TreePrinter::step(const FolderRow& row) {
    if (open_.empty()) {
        while (next_root_ < titles_.size() && !tree_.at(titles_[next_root_].first).kept) ++next_root_;
        if (next_root_ == titles_.size()) return false;
        const auto& [root, title] = titles_[next_root_++];
        out_.line(title, Style::bold);
        open_.push_back({root, tree_.at(root).first_below, files_ ? direct_[root] : 0, ""});
        return true;
    }
    auto& now = open_.back();
    if (now.next == FolderTree::none || open_.size() > depth_) {
        open_.pop_back();
        return true;
    }
    const auto folder = now.next;
    now.next = tree_.at(folder).next;
    const bool last = now.next == FolderTree::none && now.files == 0;
    const auto lead = now.lead + (last ? "└─ " : "├─ ");
    // Deeper than a terminal is wide there is nothing to draw lines with.
    const bool deep = columns_of(now.lead) > most_lines_;
    enter(folder, lead, deep ? now.lead : now.lead + (last ? "   " : "│  "), row);
    return true;
}

void TreePrinter::enter(Index folder, const std::string& lead, const std::string& below,
                        const FolderRow& row) {
    const auto& node = tree_.at(folder);
    cells_.assign(1, {lead, std::string(tree_.name(folder)) + "/", Style::bold,
                      files_ ? counts_of(node.totals) : std::string()});
    row(node, cells_);
    out_.row(cells_);
    const bool entered = open_.size() < depth_;
    open_.push_back({folder, node.first_below, files_ && entered ? direct_[folder] : 0, below});
}

void TreePrinter::begin(const FolderRow& row) {
    if (!step(row)) return;
    while (!open_.empty() && open_.back().next != FolderTree::none && open_.size() <= depth_) step(row);
}

void TreePrinter::file(Index number, const ShelfEntry& e, const FolderRow& row, const FileRow& file_row) {
    const auto is_here = [&] {
        return !open_.empty() && order_[open_.back().folder] == number &&
               (open_.back().next == FolderTree::none || open_.size() > depth_);
    };
    while (!is_here()) {
        if (!step(row)) return;
    }
    auto& now = open_.back();
    if (now.files) --now.files;
    auto name = e.stream.empty() ? e.shown_name() : e.shown_name() + ":" + e.stream;
    cells_.assign(1, {now.lead + (now.files ? "├─ " : "└─ "), name + e.arrow(), Style::plain, {}});
    file_row(e, cells_);
    out_.row(cells_);
}

void TreePrinter::finish(const FolderRow& row) {
    while (step(row)) continue;
    out_.finish();
}

}  // namespace undershelf::cli
