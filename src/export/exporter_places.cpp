// Where in the bag entries go.

#include <climits>

#include "export/entry_place.hpp"
#include "export/exporter.hpp"

namespace undershelf {

/// The folder's path before it is made safe.
std::string Exporter::original_folder(const ShelfEntry& e, const std::string& path) const {
    // The paths of what has no name begin with that folder.
    if (options_.tree == ExportTree::keep && !path.empty())
        return "data/" + (e.origin == Origin::unnamed ? "" : top_folder(e, several_volumes_) + "/") + path;
    auto out = "data/" + top_folder(e, several_volumes_);
    if (options_.tree == ExportTree::kind) out += "/" + kind_folder(e);
    if (options_.tree == ExportTree::month) out += "/" + month_folder(e);
    return out;
}

/// It is there when this returns. Throws std::system_error.
const std::string& Exporter::folder_in_bag(const std::string& original) {
    const auto path = paths_.folder(original);
    const auto [it, fresh] = made_.insert(path);
    if (!fresh) return *it;
    try {
        bag_.folder().make_folders(path);
    } catch (const std::system_error&) {
        made_.erase(it);
        throw;
    }
    return *it;
}

/// Empty ones are in the first bag.
void Exporter::add_folder(const ShelfEntry& e) {
    if (options_.tree != ExportTree::keep) return;
    const auto original = original_folder(e, e.shown_path());
    if (number_ > 0) {
        folder_times_.push_back({paths_.folder(original), e.modified, e.accessed});
        return;
    }
    try {
        const auto& path = folder_in_bag(original);
        folder_times_.push_back({path, e.modified, e.accessed});
        if (links_) links_->has_place(e, path, nullptr);
        ++result_.folders;
    } catch (const std::system_error& error) {
        auto line = line_of(e);
        fail(line, error.code());
        add_line(std::move(line));
    }
}

/// Gives the entry its place in the bag.
void Exporter::name(Task& task) {
    const auto& e = task.entry;
    try {
        const auto original = original_folder(e, e.shown_folder());
        folder_in_bag(original);
        const auto* before = already_.find(e.id);
        const auto path = paths_.file(
            original, file_name(e, before && !before->path.empty() && e.revision > before->revision));
        if (bag_.folder().path().size() + 1 + path.size() >= PATH_MAX)
            throw std::system_error(ENAMETOOLONG, std::generic_category());
        task.line.path_in_bag = path;
        task.to_write = true;
    } catch (const std::system_error& error) {
        fail(task.line, error.code());
    }
}

}  // namespace undershelf
