#include "scan/bin_notes.hpp"

#include <algorithm>

#include "base/text.hpp"
#include "bins/ds_store.hpp"
#include "volume/budget.hpp"
#include "volume/content_stream.hpp"

namespace undershelf {

namespace {

/// An index of a bin of before Vista has 800 bytes for each thing that was ever in it.
constexpr std::size_t most_record_bytes = 16 << 20;
constexpr std::string_view trash_info = ".trashinfo";

std::string_view text_in(Bytes bytes) {
    return {reinterpret_cast<const char*>(bytes.data()), bytes.size()};
}

}  // namespace

BinNotes::BinNotes(const Source& source, const Shelf& shelf, const Progress& progress) {
    // `_`: any letter, as the first one may be lost.
    shelf.for_each_called({"_I%", "%.trashinfo", "_NFO2", ".DS_Store"}, [&](const ShelfEntry& e) {
        if (e.is_dir || e.size == 0 || e.size > most_record_bytes || e.layout == Layout::none) return true;
        ContentStream stream(source, shelf.pieces(e.id), e.size);
        learn(e, stream.first(static_cast<std::size_t>(e.size)));
        return !progress.stopped();
    });
}

void BinNotes::learn(const ShelfEntry& e, Bytes content) {
    const auto name = folded(e.name);
    if (name.starts_with("$i")) {
        auto record = parse_windows_record(content);
        if (!record) return;
        record->name = "$R" + e.name.substr(2);
        note(e, e.folder_path, std::move(*record));
    } else if (name.ends_with(trash_info) && folded(name_in(e.folder_path)) == "info") {
        auto record = parse_trash_info(text_in(content));
        if (!record) return;
        record->name = e.name.substr(0, e.name.size() - trash_info.size());
        note(e, joined_path(folder_in(e.folder_path), "files"), std::move(*record));
    } else if (name.substr(name.empty() ? 0 : 1) == "nfo2") {
        for (auto& record : parse_info2(content)) note(e, e.folder_path, std::move(record));
    } else if (name == ".ds_store") {
        const auto place = bin_place_of(e.folder_path);
        if (!place || place->system != BinPlace::System::macos) return;
        for (auto& record : parse_ds_store(content)) note(e, e.folder_path, std::move(record));
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
