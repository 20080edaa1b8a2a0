#include <fmt/format.h>

#include "answers/grade_words.hpp"
#include "base/saturating.hpp"
#include "cli/columns.hpp"
#include "cli/command.hpp"
#include "cli/output.hpp"
#include "cli/tree_printer.hpp"
#include "shelf/tree_rows.hpp"
#include "volume/words.hpp"

namespace undershelf::cli {

namespace {

using Cells = std::vector<ColumnWriter::Cell>;

constexpr int gap = 2, narrowest_name = 24;
/// More files than this are not sorted in a moment: the first folders are shown before.
constexpr std::uint64_t many_files = 50'000;

/// A column beside the names.
struct Side {
    const char* title;
    int width;
    bool to_right;
    std::string (*of_file)(const ShelfEntry&);
    std::string (*of_folder)(const FolderTree::Node&);
    Style (*style)(const ShelfEntry&) = nullptr;
};

std::string no_text(const FolderTree::Node&) {
    return {};
}
std::string bytes_below(const FolderTree::Node& node) {
    return node.totals.files ? human_size(node.totals.bytes) : std::string();
}

/// The columns there is room for; a narrow terminal does without the last ones of this list.
std::vector<Side> sides_for(int width, int grades) {
    const std::vector<Side> wanted{
        {"GRADE", grades, false, grade_text, no_text, grade_style},
        {"SIZE", 10, true, [](const ShelfEntry& e) { return human_size(e.size); }, bytes_below},
        {"CHANCE", 6, true, [](const ShelfEntry& e) { return chance_text(e); }, no_text},
        {"ORIGIN", 7, false, [](const ShelfEntry& e) { return std::string(word(e.origin)); },
         [](const FolderTree::Node& n) {
             return n.flags & FolderTree::made_up ? std::string() : std::string(word(n.origin));
         },
         [](const ShelfEntry& e) { return e.origin == Origin::live ? Style::dim : Style::plain; }},
    };
    static constexpr std::size_t shown_order[] = {1, 0, 2, 3};
    std::size_t count = 0;
    for (int left = width - narrowest_name; count < wanted.size(); ++count) {
        left -= wanted[count].width + gap;
        if (left < 0) break;
    }
    std::vector<Side> out;
    for (const auto i : shown_order) {
        if (i < count) out.push_back(wanted[i]);
    }
    return out;
}

std::vector<std::pair<FolderTree::Index, std::string>> titles_of(const Shelf& shelf, const FolderTree& tree) {
    std::vector<std::pair<FolderTree::Index, std::string>> out;
    const auto add = [&](int volume, std::string title) {
        if (const auto root = tree.root(volume); root != FolderTree::none)
            out.emplace_back(root, std::move(title));
    };
    for (const auto& v : shelf.volumes())
        add(v.number,
            fmt::format("volume {}  {}{}{}", v.number, v.state == VolumeState::former ? "former " : "",
                        v.file_system, v.label.empty() ? "" : " “" + v.label + "”"));
    add(0, "in no volume that is known");
    return out;
}

/// What is to be shown, with its totals.
class TreeView {
  public:
    TreeView(const Shelf& shelf, Selection selection, unsigned depth, const Terminal& terminal)
        : shelf_(shelf), selection_(std::move(selection)), depth_(depth), terminal_(terminal), tree_(shelf) {}

    /// False when nothing fits.
    bool show_folders() {
        ColumnWriter out(terminal_,
                         {{"FOLDER"}, {"FILES", 10, true}, {"SIZE", 10, true}, {"LIKELY+", 10, true}});
        if (!count()) return false;
        TreePrinter printer(tree_, titles_of(shelf_, tree_), depth_, false, out, terminal_.width() / 3);
        printer.finish([](const FolderTree::Node& node, Cells& cells) {
            const auto& t = node.totals;
            cells.push_back({{}, t.files ? grouped(t.files) : "-", Style::plain, {}});
            cells.push_back({{}, t.files ? human_size(t.bytes) : "-", Style::plain, {}});
            cells.push_back(
                {{}, t.likely ? grouped(t.likely) : "-", t.likely ? Style::strong : Style::plain, {}});
        });
        tell();
        return true;
    }

    bool show_all() {
        const auto sides = sides_for(terminal_.width(), grade_width(shelf_));
        std::vector<ColumnWriter::Head> heads{{"NAME"}};
        for (const auto& side : sides) heads.push_back({side.title, side.width, side.to_right});
        ColumnWriter out(terminal_, std::move(heads));
        if (!count()) return false;
        TreePrinter printer(tree_, titles_of(shelf_, tree_), depth_, true, out, terminal_.width() / 3);
        const auto folder_row = [&](const FolderTree::Node& node, Cells& cells) {
            for (const auto& side : sides) cells.push_back({{}, side.of_folder(node), Style::plain, {}});
        };
        const auto file_row = [&](const ShelfEntry& e, Cells& cells) {
            for (const auto& side : sides)
                cells.push_back({{}, side.of_file(e), side.style ? side.style(e) : Style::plain, {}});
        };
        if (files_ > many_files) {
            printer.begin(folder_row);
            out.release();
            flush_out();
        }
        for_each_in_tree(shelf_, selection_, tree_, printer.order(),
                         [&](FolderTree::Index number, const ShelfEntry& e) {
                             printer.file(number, e, folder_row, file_row);
                         });
        printer.finish(folder_row);
        tell();
        return true;
    }

  private:
    /// Counts what is selected; of all that the shelf keeps the totals are there. False when nothing fits.
    bool count() {
        bool any = true;
        if (selection_.selects_all() && selection_.no_helpers) {
            tree_.keep_all();
        } else {
            auto counted = count_in_tree(shelf_, selection_, tree_);
            any = counted.sum.entries() > 0;
            // What took long to select is not selected twice.
            selection_ = {};
            selection_.among = std::make_shared<const IdSet>(std::move(counted.files));
        }
        for (FolderTree::Index i = 0; i < tree_.size(); ++i) {
            const auto& node = tree_.at(i);
            const bool root = node.flags & FolderTree::is_root;
            if (root) files_ += node.totals.files;
            if (root) bytes_ = saturating_add(bytes_, node.totals.bytes);
            folders_ += node.kept && !root;
        }
        tree_.arrange();
        return any && folders_ + files_ > 0;
    }

    void tell() const {
        flush_out();
        note("{}, {}, {}\n", counted(folders_, "folder", "folders"), counted(files_, "file", "files"),
             human_size(bytes_));
        if (depth_ != ~0u)
            note("folders deeper than {} are not opened; their totals have all that is below\n", depth_);
    }

    const Shelf& shelf_;
    Selection selection_;
    unsigned depth_;
    const Terminal& terminal_;
    FolderTree tree_;
    std::uint64_t folders_ = 0, files_ = 0, bytes_ = 0;  ///< that are shown
};

int run(const std::vector<std::string>& arguments) {
    po::options_description options("Options");
    options.add_options()("folders",
                          "folders alone, each with the files below it, their bytes, and how many are likely "
                          "or better")("depth", value("NUMBER"),
                                       "do not open folders that are so deep; 1 is those in the root")(
        "source", value("SOURCE", ""), "where the source is now, if it moved");
    options.add(color_option());
    const auto given = parse(tree_command(), options, {"SHELF"}, arguments);
    if (!given) return done;
    const auto terminal = terminal_from(*given);
    const auto depth = depth_from(*given).value_or(~0u);
    const Shelf shelf((*given)[":SHELF"].as<std::string>());
    const auto chosen = chosen_from(*given, shelf);
    TreeView view(shelf, chosen.selection, depth, terminal);
    if (given->count("folders") ? view.show_folders() : view.show_all())
        tell_what_is_left_out(shelf, chosen.selection);
    else
        tell_why_nothing_fits(shelf, *given);
    return tell_of_looking(shelf, chosen) ? done : interrupted;
}

}  // namespace

Command tree_command() {
    Command out{"tree", "SHELF [selection]", "the rebuilt tree, with grades and with what is in each folder",
                run};
    out.selects = true;
    return out;
}

}  // namespace undershelf::cli
