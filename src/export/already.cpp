#include "export/already.hpp"

#include <algorithm>

#include "base/slash_path.hpp"

namespace undershelf {

namespace {

constexpr std::size_t most_named = 3;

void note(std::uint64_t& count, std::vector<std::string>& first, const std::string& path) {
    if (++count <= most_named) first.push_back(path);
}

/// How many names a path has.
std::size_t names_in(std::string_view path) {
    return path.empty() ? 0 : static_cast<std::size_t>(std::count(path.begin(), path.end(), '/')) + 1;
}

/// What the export called the folder of a file before it made its name safe; empty where the file is not in a
/// folder that was kept.
std::string original_folder(const std::string& path_in_bag, const std::string& shown_path) {
    std::string_view top = folder_in(path_in_bag);
    const auto kept = folder_in(shown_path);
    for (auto n = names_in(kept); n; --n) top = folder_in(top);
    // The paths of what has no name say themselves that it has none.
    const bool unnamed = kept == "unnamed" || kept.starts_with("unnamed/");
    if (top.empty() || (top == "data") != unnamed) return {};
    return joined_path(top, kept);
}

}  // namespace

Already::Already(const Bag& bag, SafePaths& names, bool keeps_folders, bool lines)
    : bag_(bag), names_(names), keeps_folders_(keeps_folders) {
    bag.past().each_finished(
        [&](const std::string& line, LineGist&& gist) { take_line(line, std::move(gist), lines); });
    for (const auto& e : bag.before()) {
        if (!e.path_in_bag) continue;
        names_.take(*e.path_in_bag);
        const auto& shown = e.first_path.empty() ? e.path : e.first_path;
        if (keeps_folders_)
            names_.is_folder_of(original_folder(*e.path_in_bag, shown), folder_in(*e.path_in_bag));
    }
    if (bag.goes_on() || !bag.past().info().rounds.empty()) look_through(bag.folder(), "data");
}

void Already::take_line(const std::string& line, LineGist&& gist, bool with_line) {
    if (gist.outcome == "failed") return;
    EarlierFile file{{}, gist.revision, gist.outcome == "partial", {}};
    if (gist.path_in_bag) {
        const auto folder = folder_in(*gist.path_in_bag);
        if (keeps_folders_)
            names_.is_folder_of(original_folder(*gist.path_in_bag, gist.shown_path()), folder);
        const bool there = bag_.past().is_there(gist);
        // The place of one that is missing is free for it.
        if (there || is_anything_at(*gist.path_in_bag)) names_.take(*gist.path_in_bag);
        if (!there) return note(said_.unfit, said_.first_unfit, *gist.path_in_bag);
        file.path = std::move(*gist.path_in_bag);
    }
    if (with_line) file.line = from_json_line(line);
    auto& known = files_[gist.id];
    if (known.path.empty() || (!file.path.empty() && file.revision >= known.revision))
        known = std::move(file);
}

bool Already::is_anything_at(const std::string& path) const {
    try {
        return bag_.folder().status(path).has_value();
    } catch (const std::system_error&) {
        return true;
    }
}

void Already::look_through(const Folder& bag, const std::string& folder) {
    std::vector<std::string> folders;
    try {
        bag.each(folder, [&](const std::string& name, const struct stat& status) {
            auto path = folder + "/" + name;
            if (S_ISDIR(status.st_mode)) {
                names_.there_is_folder(path);
                folders.push_back(std::move(path));
            } else if (names_.take(path)) {
                note(said_.foreign, said_.first_foreign, path);
            }
            return true;
        });
    } catch (const std::system_error&) {
        note(said_.unfit, said_.first_unfit, folder);
    }
    for (const auto& f : folders) look_through(bag, f);
}

const EarlierFile* Already::find(std::int64_t entry) const {
    const auto it = files_.find(entry);
    return it == files_.end() ? nullptr : &it->second;
}

IdSet Already::with_files() const {
    std::vector<ByteRange> ids;
    for (const auto& [id, file] : files_) {
        if (!file.path.empty() && id >= 0) ids.push_back({static_cast<std::uint64_t>(id), 1});
    }
    return IdSet(std::move(ids));
}

void Already::tell(ExportResult::Part& part) const {
    part.unfit = said_.unfit;
    part.foreign = said_.foreign;
    part.first_unfit = said_.first_unfit;
    part.first_foreign = said_.first_foreign;
}

}  // namespace undershelf
