#include "scan/places.hpp"

#include <algorithm>
#include <map>
#include <set>

#include "base/text.hpp"
#include "scan/bin_notes.hpp"

namespace undershelf {

namespace {

/// Folders in one question to the shelf.
constexpr std::size_t folders_at_once = 500;

void unite_moved(ShelfWriter& shelf, const BinNotes& notes) {
    auto places = shelf.lost_places(notes.any());
    for (auto& p : places) {
        const auto path = p.path();
        p.binned = notes.item_at(p.volume, path).has_value();
        if (const auto* record = p.binned ? notes.find(p.volume, path, p.size) : nullptr)
            p.told = record->first_path;
    }
    shelf.unite(group_moved(std::move(places)));
}

/// A bin's own files, by their places.
bool serves_the_bin(const ShelfEntry& e) {
    const auto name = folded(e.name);
    if (e.is_dir) return false;
    const auto place = bin_place_of(e.folder_path);
    if (place && place->inside.empty()) {
        using System = BinPlace::System;
        return (place->system == System::windows && name.starts_with("$i")) ||
               (place->system == System::old_windows && name == "info2");
    }
    return is_bins_own_folder(e.folder_path) && (name.ends_with(".trashinfo") || name == "directorysizes");
}

class BinMarks {
  public:
    BinMarks(ShelfWriter& shelf, const BinNotes& notes) : shelf_(shelf), notes_(notes) {}

    void run(const Progress& progress) {
        const auto view = shelf_.view();
        std::set<std::string> folders = notes_.found_by_records();
        view.for_each_folder([&](std::int64_t id, const std::string& path) {
            if (!is_bins_own_folder(path)) return;
            folders.insert(path);
            shelf_.set_helper(id);
        });
        // First the things in bins themselves: what is in a binned folder goes by that.
        for_each_in(view, folders, progress, [&](const ShelfEntry& e) {
            if (serves_the_bin(e) || notes_.is_record(e.id)) {
                shelf_.set_helper(e.id);
            } else if (const auto item = notes_.item_at(e.volume.value_or(0), e.path())) {
                if (item->rest.empty()) learn(e, item->path);
            }
        });
        for_each_in(view, folders, progress, [&](const ShelfEntry& e) {
            const auto item = notes_.item_at(e.volume.value_or(0), e.path());
            if (item && !serves_the_bin(e) && !notes_.is_record(e.id)) mark(e, *item);
        });
    }

  private:
    template <class Visit>
    static void for_each_in(const Shelf& view, const std::set<std::string>& folders, const Progress& progress,
                            const Visit& visit) {
        for (const auto& some : in_portions(folders)) {
            Selection bins;
            bins.under = some;
            view.for_each(bins, {}, [&](const ShelfEntry& e) {
                visit(e);
                return !progress.stopped();
            });
            if (progress.stopped()) return;
        }
    }

    /// Without those that are in others.
    static std::vector<std::vector<std::string>> in_portions(const std::set<std::string>& folders) {
        std::vector<std::vector<std::string>> out;
        std::string last;
        for (const auto& path : folders) {
            if (!out.empty() && is_within(path, last)) continue;
            if (out.empty() || out.back().size() == folders_at_once) out.emplace_back();
            out.back().push_back(last = path);
        }
        return out;
    }

    struct Before {
        std::string path;
        MaybeTime deleted;
    };

    /// Of a thing in a bin itself: by a record of where it is, or of where it was in the bin before, or by
    /// its last name outside of bins.
    void learn(const ShelfEntry& e, const std::string& place) {
        const int volume = e.volume.value_or(0);
        const auto* record = notes_.find(volume, place, e.size);
        std::optional<std::string> outside;
        for (const auto& name : e.earlier_names) {
            if (!notes_.item_at(volume, name)) {
                if (!outside) outside = name;
            } else if (!record) {
                record = notes_.find(volume, name, e.size);
            }
        }
        if (!record && !outside) return;
        auto before = record ? Before{record->first_path, record->deleted} : Before{*outside, {}};
        if (e.is_dir) folders_[{volume, place}] = before;
        things_[e.id] = std::move(before);
    }

    /// A name in a bin may have no extension; the one of before has.
    void set_bin(std::int64_t entry, const std::string& first_path, const MaybeTime& deleted) {
        shelf_.set_bin(entry, first_path, sorting_of(name_in(first_path)), deleted);
    }

    void mark(const ShelfEntry& e, const BinNotes::Item& item) {
        if (const auto own = things_.find(e.id); own != things_.end()) {
            set_bin(e.id, own->second.path, own->second.deleted);
            return;
        }
        const std::pair key(e.volume.value_or(0), item.path);
        const auto it = item.rest.empty() ? folders_.end() : folders_.find(key);
        if (it == folders_.end()) {
            set_bin(e.id, {}, {});
        } else {
            set_bin(e.id, it->second.path + item.rest, it->second.deleted);
        }
    }

    ShelfWriter& shelf_;
    const BinNotes& notes_;
    std::map<std::int64_t, Before> things_;                  ///< by entry
    std::map<std::pair<int, std::string>, Before> folders_;  ///< by volume and path in the bin
};

}  // namespace

void settle_places(const Source& source, ShelfWriter& shelf, Progress& progress) {
    progress.stage("looking where files were before");
    shelf.commit();
    const BinNotes notes(source, shelf.view(), progress);
    if (progress.stopped()) return;
    unite_moved(shelf, notes);
    shelf.commit();
    BinMarks(shelf, notes).run(progress);
    shelf.commit();
}

}  // namespace undershelf
