#include "scan/bin_notes.hpp"

#include <algorithm>

#include "base/text.hpp"
#include "bins/ds_store.hpp"
#include "volume/budget.hpp"
#include "volume/content_stream.hpp"

namespace undershelf {

namespace {

/// A record of one thing is a few hundred bytes; an index has 800 for each thing that was ever in the bin.
constexpr std::uint64_t most_record_bytes = 64 << 10, most_index_bytes = 16 << 20;
/// Of all records of a shelf together: many entries may claim the same bytes.
constexpr std::uint64_t most_bytes = 256 << 20;
constexpr std::string_view trash_info = ".trashinfo";

std::string_view text_in(Bytes bytes) {
    return {reinterpret_cast<const char*>(bytes.data()), bytes.size()};
}

/// What an entry may be by its name and place, and how much of it is worth reading.
struct RecordKind {
    enum class Is { windows, old_index, freedesktop, macos } is{};
    std::uint64_t most = 0;  ///< bytes
};

std::optional<RecordKind> record_kind(const ShelfEntry& e) {
    using Is = RecordKind::Is;
    const auto name = folded(e.name);
    if (name.starts_with("$i")) return RecordKind{Is::windows, most_record_bytes};
    if (name == "info2" || name == "_nfo2") return RecordKind{Is::old_index, most_index_bytes};
    if (name.ends_with(trash_info) && folded(name_in(e.folder_path)) == "info")
        return RecordKind{Is::freedesktop, most_record_bytes};
    if (name != ".ds_store") return std::nullopt;
    const auto place = bin_place_of(e.folder_path);
    if (!place || place->system != BinPlace::System::macos) return std::nullopt;
    return RecordKind{Is::macos, most_index_bytes};
}

}  // namespace

BinNotes::BinNotes(const Source& source, const Shelf& shelf, const Progress& progress) {
    auto left = most_bytes;
    // The first letter of INFO2 may be lost.
    shelf.for_each_called({"$I%", "%.trashinfo", "_NFO2", ".DS_Store"}, [&](const ShelfEntry& e) {
        const auto kind = record_kind(e);
        const bool readable = !e.is_dir && e.size > 0 && e.layout != Layout::none;
        if (!kind || !readable || e.size > std::min(kind->most, left)) return !progress.stopped();
        left -= e.size;
        ContentStream stream(source, shelf.pieces(e.id), e.size);
        learn(e, stream.first(static_cast<std::size_t>(e.size)));
        return !progress.stopped();
    });
}

void BinNotes::learn(const ShelfEntry& e, Bytes content) {
    const auto take = [&](std::optional<BinRecord> record, std::string name, const std::string& folder) {
        if (!record) return;
        record->name = std::move(name);
        note(e, folder, std::move(*record));
    };
    switch (record_kind(e)->is) {
        case RecordKind::Is::windows:
            take(parse_windows_record(content), "$R" + e.name.substr(2), e.folder_path);
            break;
        case RecordKind::Is::freedesktop:
            take(parse_trash_info(text_in(content)), e.name.substr(0, e.name.size() - trash_info.size()),
                 joined_path(folder_in(e.folder_path), "files"));
            break;
        case RecordKind::Is::old_index:
            for (auto& record : parse_info2(content)) note(e, e.folder_path, std::move(record));
            break;
        case RecordKind::Is::macos:
            for (auto& record : parse_ds_store(content)) note(e, e.folder_path, std::move(record));
            break;
    }
}

void BinNotes::note(const ShelfEntry& e, const std::string& folder, BinRecord&& record) {
    const int volume = e.volume.value_or(0);
    const auto depth = std::count(record.first_path.begin(), record.first_path.end(), '/');
    if (record.first_path.size() > bound::path_bytes || depth > static_cast<int>(bound::folder_depth)) return;
    records_.insert(e.id);
    if (!bin_place_of(folder)) folders_.insert(folder);
    auto path = folded(joined_path(folder, record.name));
    notes_.emplace(std::pair(volume, std::move(path)), std::move(record));
}

std::optional<BinNotes::Item> BinNotes::item_at(int volume, const std::string& path) const {
    const auto split = [&](std::size_t end) { return Item{path.substr(0, end), path.substr(end)}; };
    if (const auto place = bin_place_of(path)) {
        if (place->inside.empty()) return std::nullopt;
        const auto from = path.size() - place->inside.size();
        return split(std::min(path.find('/', from), path.size()));
    }
    if (folders_.empty()) return std::nullopt;
    for (auto end = std::min(path.find('/'), path.size());;
         end = std::min(path.find('/', end + 1), path.size())) {
        if (notes_.count({volume, folded(path.substr(0, end))})) return split(end);
        if (end == path.size()) return std::nullopt;
    }
}

const BinRecord* BinNotes::find(int volume, const std::string& path, std::uint64_t size) const {
    const auto [from, to] = notes_.equal_range({volume, folded(path)});
    const BinRecord* out = nullptr;
    for (auto it = from; it != to; ++it) {
        out = &it->second;
        if (it->second.size == size) break;
    }
    return out;
}

}  // namespace undershelf
