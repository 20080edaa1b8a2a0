#include <fmt/format.h>

#include <map>

#include "base/text.hpp"
#include "cli/columns.hpp"
#include "cli/command.hpp"
#include "volume/words.hpp"

namespace undershelf::cli {

namespace {

/// Prints the tree depth first. Folders that hold nothing selected, at any depth, are left out.
class TreePrinter {
  public:
    TreePrinter(const Shelf& shelf, const Selection& selection, const Terminal& terminal)
        : terminal_(terminal) {
        Selection all_folders;
        all_folders.folders_only = true;
        shelf.for_each(all_folders, {}, [this](const ShelfEntry& e) {
            folders_.emplace(e.id, Folder{e, e.folder, {}, {}, false});
            return true;
        });
        shelf.for_each(selection, {}, [this](const ShelfEntry& e) {
            if (e.is_dir) {
                keep(e.id);
            } else {
                (e.folder > 0 && folders_.count(e.folder) ? folders_.at(e.folder).files : loose_[e.folder])
                    .push_back(e);
                if (e.folder > 0) keep(e.folder);
            }
            bytes_ += e.size;
            ++entries_;
            return !stop_flag().load();
        });
        for (auto& [id, folder] : folders_) {
            if (!folder.kept) continue;
            (folder.parent > 0 && folders_.count(folder.parent) ? folders_.at(folder.parent).folders
                                                                : roots_[folder.parent])
                .push_back(id);
        }
    }

    int print(const Shelf& shelf) {
        if (entries_ == 0) {
            fmt::print(stderr, "No entry fits. `undershelf summary {}` shows what is there.\n", shelf.path());
            return done;
        }
        heading();
        for (const auto& v : shelf.volumes()) {
            const auto root = -static_cast<std::int64_t>(v.number);
            if (!roots_.count(root) && !loose_.count(root)) continue;
            const auto title = fmt::format("volume {}  {}{}", v.number, v.file_system,
                                           v.label.empty() ? "" : " “" + v.label + "”");
            fmt::print("{}\n", terminal_.styled(fitted(title, terminal_.width()), Style::bold));
            children(std::move(roots_[root]), std::move(loose_[root]));
        }
        std::fflush(stdout);
        fmt::print(stderr, "{}, {}\n", counted(entries_, "entry", "entries"), human_size(bytes_));
        return done;
    }

  private:
    struct Folder {
        ShelfEntry entry;
        std::int64_t parent;
        std::vector<std::int64_t> folders;
        std::vector<ShelfEntry> files;
        bool kept;
    };

    static constexpr int size_width = 10, grade_width = 8, chance_width = 6, origin_width = 8, gap = 2;

    void keep(std::int64_t id) {
        for (auto it = folders_.find(id); it != folders_.end() && !it->second.kept;
             it = folders_.find(it->second.parent))
            it->second.kept = true;
    }

    int name_width() const {
        return std::max(20,
                        terminal_.width() - size_width - grade_width - chance_width - origin_width - 4 * gap);
    }

    void heading() const {
        const auto line = fmt::format("{}  {}  {}  {}  ORIGIN", padded("NAME", name_width()),
                                      padded("SIZE", size_width, true), padded("GRADE", grade_width),
                                      padded("CHANCE", chance_width, true));
        fmt::print("{}\n", terminal_.styled(line, Style::dim));
    }

    void line(const std::string& lead, const ShelfEntry& e) const {
        const int width = std::max(8, name_width() - columns_of(lead));
        auto name = e.stream.empty() ? e.name : e.name + ":" + e.stream;
        if (e.is_dir) name += "/";
        const auto shown = padded(name, width);
        auto out = terminal_.styled(lead, Style::dim) +
                   terminal_.styled(shown, e.is_dir ? Style::bold : Style::plain);
        out += "  " + padded(e.is_dir ? "" : human_size(e.size), size_width, true);
        out +=
            "  " + terminal_.styled(padded(std::string(word(e.rating.grade)), grade_width), grade_style(e));
        out += "  " + padded(chance_text(e), chance_width, true);
        out += "  " +
               terminal_.styled(std::string(word(e.origin)),
                                e.origin == Origin::live ? Style::dim : Style::plain) +
               "\n";
        std::fwrite(out.data(), 1, out.size(), stdout);
    }

    /// What of one folder is still to be printed.
    struct Level {
        std::vector<std::int64_t> folders;
        std::vector<ShelfEntry> files;
        std::string lead;
        std::size_t next = 0;  ///< of the folders
    };

    Level level(std::vector<std::int64_t>&& folders, std::vector<ShelfEntry>&& files,
                std::string lead) const {
        std::sort(folders.begin(), folders.end(), [this](std::int64_t a, std::int64_t b) {
            return std::pair(folded(folders_.at(a).entry.name), a) <
                   std::pair(folded(folders_.at(b).entry.name), b);
        });
        sort_by_name(files);
        return {std::move(folders), std::move(files), std::move(lead)};
    }

    /// Depth first, on a stack of its own: shelves may have folders nested deeper than the program's stack.
    void children(std::vector<std::int64_t>&& folders, std::vector<ShelfEntry>&& files) {
        std::vector<Level> open;
        open.push_back(level(std::move(folders), std::move(files), ""));
        while (!open.empty()) {
            auto& now = open.back();
            if (now.next == now.folders.size()) {
                for (std::size_t i = 0; i < now.files.size(); ++i)
                    line(now.lead + (i + 1 == now.files.size() ? "└─ " : "├─ "), now.files[i]);
                open.pop_back();
                continue;
            }
            auto& folder = folders_.at(now.folders[now.next++]);
            const bool last = now.next == now.folders.size() && now.files.empty();
            line(now.lead + (last ? "└─ " : "├─ "), folder.entry);
            // Deeper than a terminal is wide there is nothing to draw lines with.
            const bool deep = columns_of(now.lead) > name_width() / 2;
            auto below = deep ? now.lead : now.lead + (last ? "   " : "│  ");
            open.push_back(level(std::move(folder.folders), std::move(folder.files), std::move(below)));
        }
    }

    static void sort_by_name(std::vector<ShelfEntry>& files) {
        std::vector<std::pair<std::string, std::size_t>> order;
        order.reserve(files.size());
        for (std::size_t i = 0; i < files.size(); ++i) order.emplace_back(folded(files[i].name), i);
        if (std::is_sorted(order.begin(), order.end())) return;
        std::sort(order.begin(), order.end());
        std::vector<ShelfEntry> sorted;
        sorted.reserve(files.size());
        for (const auto& [name, i] : order) sorted.push_back(std::move(files[i]));
        files = std::move(sorted);
    }

    const Terminal& terminal_;
    std::map<std::int64_t, Folder> folders_;
    std::map<std::int64_t, std::vector<std::int64_t>> roots_;
    std::map<std::int64_t, std::vector<ShelfEntry>> loose_;
    std::uint64_t entries_ = 0, bytes_ = 0;
};

int run(const std::vector<std::string>& arguments) {
    po::options_description options("Options");
    options.add(color_option()).add(selection_options());
    const auto given = parse(tree_command(), options, {"SHELF"}, arguments);
    if (!given) return done;
    const auto selection = selection_from(*given);
    const auto terminal = terminal_from(*given);
    const Shelf shelf((*given)[":SHELF"].as<std::string>());
    return TreePrinter(shelf, selection, terminal).print(shelf);
}

}  // namespace

Command tree_command() {
    return {"tree", "SHELF [selection]", "the rebuilt tree, with grades", run};
}

}  // namespace undershelf::cli
