#include <fmt/format.h>

#include <limits>
#include <map>

#include "base/saturating.hpp"
#include "base/text.hpp"
#include "cli/columns.hpp"
#include "cli/command.hpp"
#include "cli/output.hpp"
#include "volume/words.hpp"

namespace undershelf::cli {

namespace {

/// Prints the tree depth first. Folders that hold nothing selected, at any depth, are left out.
class TreePrinter {
  public:
    TreePrinter(const Shelf& shelf, const Selection& selection, const Terminal& terminal)
        : terminal_(terminal), sides_(sides_for(terminal.width(), grade_width(shelf))) {
        Selection all_folders;
        all_folders.folders_only = true;
        shelf.for_each(all_folders, {}, [this](const ShelfEntry& e) {
            folders_.emplace(e.id, Folder{e, e.folder, {}, {}, false});
            by_path_.emplace(std::pair(e.volume.value_or(0), e.shown_path()), e.id);
            return true;
        });
        place_binned_folders();
        shelf.for_each(selection, {}, [this](const ShelfEntry& e) {
            if (e.is_dir) {
                keep(e.id);
            } else {
                const auto folder = folder_of(e);
                (folders_.count(folder) ? folders_.at(folder).files : loose_[folder]).push_back(e);
                keep(folder);
            }
            bytes_ = saturating_add(bytes_, e.size);
            ++entries_;
            return true;
        });
        for (auto& [id, folder] : folders_) {
            if (!folder.kept) continue;
            (folders_.count(folder.parent) ? folders_.at(folder.parent).folders : roots_[folder.parent])
                .push_back(id);
        }
    }

    /// False when nothing fits.
    bool show(const Shelf& shelf) {
        if (entries_ == 0) return false;
        heading();
        for (const auto& v : shelf.volumes())
            below(-static_cast<std::int64_t>(v.number),
                  fmt::format("volume {}  {}{}{}", v.number, v.state == VolumeState::former ? "former " : "",
                              v.file_system, v.label.empty() ? "" : " “" + v.label + "”"));
        below(0, "in no volume that is known");
        flush_out();
        note("{}, {}\n", counted(entries_, "entry", "entries"), human_size(bytes_));
        return true;
    }

  private:
    struct Folder {
        ShelfEntry entry;
        std::int64_t parent;
        std::vector<std::int64_t> folders;
        std::vector<ShelfEntry> files;
        bool kept;
    };

    /// A column beside the names.
    struct Side {
        const char* title;
        int width;
        bool to_right;
        std::string (*text)(const ShelfEntry&);
        Style (*style)(const ShelfEntry&);
    };

    /// The columns there is room for; a narrow terminal does without the last ones of this list.
    static std::vector<Side> sides_for(int width, int grades) {
        const std::vector<Side> wanted{
            {"GRADE", grades, false, grade_text, grade_style},
            {"SIZE", 10, true,
             [](const ShelfEntry& e) { return e.is_dir ? std::string() : human_size(e.size); }, nullptr},
            {"CHANCE", 6, true, [](const ShelfEntry& e) { return chance_text(e); }, nullptr},
            {"ORIGIN", 7, false, [](const ShelfEntry& e) { return std::string(word(e.origin)); },
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

    static constexpr int gap = 2, narrowest_name = 24;

    /// What is below a root, with its title.
    void below(std::int64_t root, const std::string& title) {
        if (!roots_.count(root) && !loose_.count(root)) return;
        print("{}\n", terminal_.styled(fitted(title, terminal_.width()), Style::bold));
        children(std::move(roots_[root]), std::move(loose_[root]));
    }

    /// What is in a bin is shown where it was before; a folder that was there and is known no more is shown
    /// for its sake.
    void place_binned_folders() {
        std::vector<std::int64_t> binned;
        for (const auto& [id, folder] : folders_) {
            if (!folder.entry.first_path.empty()) binned.push_back(id);
        }
        for (const auto id : binned) folders_.at(id).parent = folder_of(folders_.at(id).entry);
    }

    /// The folder that an entry is shown in: its own, but for the first thing in a bin.
    std::int64_t folder_of(const ShelfEntry& e) {
        if (e.first_path.empty()) return e.folder;
        const auto own = folders_.find(e.folder);
        const bool moved_along = own != folders_.end() && !own->second.entry.first_path.empty();
        return moved_along ? e.folder : folder_at(e, e.shown_folder());
    }

    /// The folder of this path, and those above it, made up where no entry tells of them.
    std::int64_t folder_at(const ShelfEntry& e, const std::string& path) {
        const int volume = e.volume.value_or(0);
        std::int64_t above = -volume;
        for (std::size_t end = 0; end < path.size();) {
            end = std::min(path.find('/', end ? end + 1 : 0), path.size());
            const auto [it, fresh] = by_path_.emplace(std::pair(volume, path.substr(0, end)), next_made_up_);
            if (fresh) {
                Folder folder{};
                folder.entry.id = next_made_up_--;
                folder.entry.name = name_in(it->first.second);
                folder.entry.is_dir = true;
                folder.entry.volume = e.volume;
                folder.entry.origin = e.origin;
                folder.parent = above;
                folders_.emplace(folder.entry.id, std::move(folder));
            }
            above = it->second;
        }
        return above;
    }

    void keep(std::int64_t id) {
        for (auto it = folders_.find(id); it != folders_.end() && !it->second.kept;
             it = folders_.find(it->second.parent))
            it->second.kept = true;
    }

    int name_width() const {
        int width = terminal_.width();
        for (const auto& side : sides_) width -= side.width + gap;
        return std::max(narrowest_name, width);
    }

    void heading() const {
        auto line = padded("NAME", name_width());
        for (const auto& side : sides_) line += "  " + padded(side.title, side.width, side.to_right);
        line.erase(line.find_last_not_of(' ') + 1);
        print("{}\n", terminal_.styled(line, Style::dim));
    }

    void line(const std::string& lead, const ShelfEntry& e) const {
        const int width = std::max(8, name_width() - columns_of(lead));
        auto name = e.stream.empty() ? e.shown_name() : e.shown_name() + ":" + e.stream;
        if (e.is_dir) name += "/";
        name += e.arrow();
        auto out = terminal_.styled(lead, Style::dim) +
                   terminal_.styled(padded(name, width), e.is_dir ? Style::bold : Style::plain);
        for (std::size_t i = 0; i < sides_.size(); ++i) {
            const auto& side = sides_[i];
            const auto text = side.text(e);
            const bool last = i + 1 == sides_.size() && !side.to_right;
            out += "  " + terminal_.styled(last ? text : padded(text, side.width, side.to_right),
                                           side.style ? side.style(e) : Style::plain);
        }
        write_out(out + "\n");
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
            return std::pair(folded(folders_.at(a).entry.shown_name()), a) <
                   std::pair(folded(folders_.at(b).entry.shown_name()), b);
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
        for (std::size_t i = 0; i < files.size(); ++i) order.emplace_back(folded(files[i].shown_name()), i);
        if (std::is_sorted(order.begin(), order.end())) return;
        std::sort(order.begin(), order.end());
        std::vector<ShelfEntry> sorted;
        sorted.reserve(files.size());
        for (const auto& [name, i] : order) sorted.push_back(std::move(files[i]));
        files = std::move(sorted);
    }

    const Terminal& terminal_;
    std::vector<Side> sides_;
    std::map<std::int64_t, Folder> folders_;
    std::map<std::pair<int, std::string>, std::int64_t> by_path_;  ///< folders, by volume
    /// Ids of folders that no entry tells of; roots have those from -1 down to minus their volume's number.
    std::int64_t next_made_up_ = std::numeric_limits<int>::min() - std::int64_t{1};
    std::map<std::int64_t, std::vector<std::int64_t>> roots_;
    std::map<std::int64_t, std::vector<ShelfEntry>> loose_;
    std::uint64_t entries_ = 0, bytes_ = 0;
};

int run(const std::vector<std::string>& arguments) {
    po::options_description options("Options");
    options.add(color_option());
    add_selection(options);
    const auto given = parse(tree_command(), options, {"SHELF"}, arguments);
    if (!given) return done;
    const auto selection = selection_from(*given);
    const auto terminal = terminal_from(*given);
    const Shelf shelf((*given)[":SHELF"].as<std::string>());
    if (!TreePrinter(shelf, selection, terminal).show(shelf)) tell_why_nothing_fits(shelf, *given);
    return done;
}

}  // namespace

Command tree_command() {
    return {"tree", "SHELF [selection]", "the rebuilt tree, with grades", run};
}

}  // namespace undershelf::cli
