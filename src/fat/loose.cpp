#include "fat/loose.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <unordered_map>

#include "fat/entries.hpp"

namespace undershelf::fat {

namespace {

constexpr std::size_t most_loose = 65'536;
constexpr std::uint64_t sector = 512, largest_cluster = 256 << 10;

/// The slots of a folder that begins at `place`: up to its end mark, to a sector that holds none, or to
/// `end`.
ByteRange slots_at(const Source& source, std::uint64_t place, std::uint64_t end) {
    end = std::min({end, source.size(), place + largest_cluster});
    ByteRange out{place, 0};
    for (auto at = place; at + sector <= end; at += sector) {
        const auto bytes = source.read_vector({at, sector});
        if (at != place && !looks_like_slots(bytes)) break;
        out.length += sector;
        if (bytes[sector - slot_size] == slot_end) break;
    }
    return out;
}

bool same_age(const DirEntry& slot, const DirEntry& dot) {
    return slot.DIR_CrtDate.value() == dot.DIR_CrtDate.value() &&
           slot.DIR_CrtTime.value() == dot.DIR_CrtTime.value();
}

class LooseReader final : public VolumeReader {
  public:
    LooseReader(const Source& source, std::vector<FolderHead>&& folders, const ReadOptions& options)
        : source_(source), options_(options), page_(options.code_page) {
        std::sort(folders.begin(), folders.end(),
                  [](const FolderHead& a, const FolderHead& b) { return a.place < b.place; });
        for (std::size_t i = 0; i < folders.size(); ++i) {
            const auto end = i + 1 < folders.size() ? folders[i + 1].place : source.size();
            by_number_.emplace(folders[i].own, folders_.size());
            folders_.push_back({folders[i], slots_at(source, folders[i].place, end), {}});
        }
    }

    void read(EntrySink& sink, Progress& progress) override {
        progress.stage("reading folders of a former volume");
        for (const auto& folder : folders_) {
            walk(folder, progress, [&](const ShortEntry& slots) { name_folder(slots); });
        }
        for (auto& folder : folders_) {
            if (!folder.key) stand_in(folder);
        }
        for (std::size_t i = 0; i < folders_.size() && !progress.stopped(); ++i) {
            const auto& folder = folders_[i];
            if (folder.key->b == stand_in_part) sink.entry(stand_in_entry(folder));
            const SeriesLetters siblings(FolderBytes(source_, {folder.slots}));
            walk(folder, progress,
                 [&](const ShortEntry& slots) { sink.entry(entry_of(slots, *folder.key, siblings)); });
            progress.at(i + 1, folders_.size());
        }
    }
    void remnants(EntrySink&, Progress&) override {}

  private:
    static constexpr std::uint64_t stand_in_part = 2;
    struct Folder {
        FolderHead head;
        ByteRange slots;
        std::optional<EntryKey> key;
    };

    template <typename Each>
    void walk(const Folder& folder, const Progress& progress, const Each& each) const {
        walk_folder(FolderBytes(source_, {folder.slots}), [&](ShortEntry&& slots) {
            if (!(slots.entry.DIR_Attr & ATTR_VOLUME_ID) && is_plausible(slots.entry, slots.erased))
                each(slots);
            return !progress.stopped();
        });
    }

    /// The folder that a slot names is one with its number and its date; it keeps the first name it is given.
    void name_folder(const ShortEntry& slots) {
        if (!(slots.entry.DIR_Attr & ATTR_DIRECTORY)) return;
        const auto [from, to] = by_number_.equal_range(start_cluster(slots.entry, Width::fat32));
        for (auto it = from; it != to; ++it) {
            auto& folder = folders_[it->second];
            const auto dot = source_.read_structure<DirEntry>(folder.head.place);
            if (folder.key || !dot || !same_age(slots.entry, *dot)) continue;
            folder.key = EntryKey{slots.source_offset, 0};
            return;
        }
    }

    void stand_in(Folder& folder) const { folder.key = EntryKey{folder.head.place, stand_in_part}; }
    Entry stand_in_entry(const Folder& folder) const {
        Entry e;
        e.key = *folder.key;
        e.origin = Origin::live;
        e.is_dir = true;
        e.name = fmt::format("folder-{}", folder.head.own);
        e.name_certainty = NameCertainty::made_up;
        e.evidence.push_back({Fact::stand_in_name, folder.head.own, 0, {}});
        // Its '..' tells the folder above by number alone: one of several may be another life's.
        if (by_number_.count(folder.head.parent) == 1)
            e.parent = *folders_[by_number_.find(folder.head.parent)->second].key;
        return e;
    }

    Entry entry_of(const ShortEntry& slots, const EntryKey& folder, const SeriesLetters& siblings) const {
        auto e = basic_entry(slots, folder, options_);
        e.origin = slots.erased || slots.after_end ? Origin::deleted : Origin::live;
        name_entry(e, slots, page_, &siblings);
        if (slots.after_end) e.evidence.push_back({Fact::after_end_mark, 0, 0, {}});
        if (e.is_dir) return e;
        if (e.size == 0) {
            e.layout = Layout::known;
            e.evidence.push_back({Fact::empty_slot, 0, 0, {}});
        } else {
            e.evidence.push_back({Fact::no_start, 0, 0, {}});
        }
        return e;
    }

    const Source& source_;
    ReadOptions options_;
    CodePage page_;
    std::vector<Folder> folders_;
    std::unordered_multimap<Cluster, std::size_t> by_number_;
};

}  // namespace

std::string pack_loose(const std::vector<FolderHead>& folders) {
    NumberLines out;
    for (std::size_t i = 0; i < std::min(folders.size(), most_loose); ++i)
        out.add("loose", {folders[i].place, folders[i].own, folders[i].parent});
    return out.text();
}

std::vector<FolderHead> unpack_loose(const NumberLines& lines) {
    std::vector<FolderHead> out;
    for (const auto& n : lines.all("loose", 3))
        out.push_back({n[0], static_cast<Cluster>(n[1]), static_cast<Cluster>(n[2])});
    return out;
}

std::vector<FolderHead> that_name_something(const Source& source, const std::vector<FolderHead>& folders) {
    auto out = folders;
    std::erase_if(out, [&](const FolderHead& f) {
        const auto third = source.read_structure<DirEntry>(f.place + 2 * slot_size);
        if (!third || third->DIR_Name[0] == slot_end) return true;
        return (third->DIR_Attr & ATTR_LONG_NAME_MASK) != ATTR_LONG_NAME &&
               !is_plausible(*third, third->DIR_Name[0] == slot_erased);
    });
    return out;
}

std::unique_ptr<VolumeReader> open_loose(const Source& source, std::vector<FolderHead> folders,
                                         const ReadOptions& options) {
    return std::make_unique<LooseReader>(source, std::move(folders), options);
}

}  // namespace undershelf::fat
