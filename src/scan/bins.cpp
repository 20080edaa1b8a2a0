#include "scan/bins.hpp"

#include <algorithm>
#include <map>

#include "base/text.hpp"
#include "volume/content_stream.hpp"

namespace undershelf {

namespace {

constexpr std::size_t most_record_bytes = 64 << 10;

std::uint64_t number_at(Bytes b, std::size_t at, int bytes) {
    std::uint64_t v = 0;
    for (int i = 0; i < bytes; ++i) v |= std::uint64_t{b[at + static_cast<std::size_t>(i)]} << 8 * i;
    return v;
}

/// `C:\Users\odile\script.txt` stands on its volume as `Users/odile/script.txt`.
std::string from_windows_path(std::string path) {
    std::replace(path.begin(), path.end(), '\\', '/');
    if (path.size() > 2 && path[1] == ':' && path[2] == '/') path.erase(0, 3);
    return path;
}

std::string percent_decoded(std::string_view text) {
    std::string out;
    const auto digit = [](char c) {
        return c >= '0' && c <= '9'   ? c - '0'
               : c >= 'a' && c <= 'f' ? c - 'a' + 10
               : c >= 'A' && c <= 'F' ? c - 'A' + 10
                                      : -1;
    };
    for (std::size_t i = 0; i < text.size(); ++i) {
        if (text[i] == '%' && i + 2 < text.size() && digit(text[i + 1]) >= 0 && digit(text[i + 2]) >= 0) {
            out += static_cast<char>(digit(text[i + 1]) * 16 + digit(text[i + 2]));
            i += 2;
        } else {
            out += text[i];
        }
    }
    return composed(out);
}

std::optional<std::string> line_value(std::string_view content, std::string_view key) {
    for (std::size_t at = 0; at < content.size();) {
        const auto end = std::min(content.find('\n', at), content.size());
        auto line = content.substr(at, end - at);
        if (line.ends_with('\r')) line.remove_suffix(1);
        if (line.starts_with(key)) return std::string(line.substr(key.size()));
        at = end + 1;
    }
    return std::nullopt;
}

/// The bin that a folder path lies in, and what stands between it and the file.
struct BinPlace {
    enum class System { windows, freedesktop, macos } system;
    std::string inside;  ///< path of the entry's folder below the bin's own folders
    std::string bin;     ///< path of the folder that holds what was deleted
};

std::optional<BinPlace> bin_of(const std::string& folder) {
    std::vector<std::string> parts;
    for (std::size_t at = 0; at <= folder.size();) {
        const auto end = std::min(folder.find('/', at), folder.size());
        parts.push_back(folder.substr(at, end - at));
        at = end + 1;
    }
    const auto place = [&](BinPlace::System system, std::size_t depth) -> std::optional<BinPlace> {
        if (parts.size() < depth) return std::nullopt;
        BinPlace out{system, {}, {}};
        for (std::size_t i = 0; i < parts.size(); ++i) {
            auto& to = i < depth ? out.bin : out.inside;
            to += (to.empty() ? "" : "/") + parts[i];
        }
        return out;
    };
    const auto top = folded(parts[0]);
    if (top == "$recycle.bin")
        return place(BinPlace::System::windows,
                     parts.size() > 1 && folded(parts[1]).starts_with("s-1-") ? 2 : 1);
    if (top.starts_with(".trash-") && parts.size() > 1 && parts[1] == "files")
        return place(BinPlace::System::freedesktop, 2);
    if (top == ".trash" && parts.size() > 2 && parts[2] == "files")
        return place(BinPlace::System::freedesktop, 3);
    if (top == ".trashes") return place(BinPlace::System::macos, 2);
    return std::nullopt;
}

struct Told {
    std::string first_path;
    MaybeTime deleted;
};

class BinSearch {
  public:
    BinSearch(const Source& source, ShelfWriter& shelf)
        : source_(source), shelf_(shelf), view_(shelf.view()) {}

    void run(const Progress& progress) {
        std::vector<ShelfEntry> binned;
        Selection bins;
        bins.under = bin_folders();
        if (bins.under.empty()) return;
        view_.for_each(bins, {}, [&](const ShelfEntry& e) {
            learn(e);
            if (bin_of(e.folder_path)) binned.push_back(e);
            return !progress.stopped();
        });
        for (const auto& e : binned) {
            if (progress.stopped()) return;
            mark(e);
        }
    }

  private:
    using Key = std::pair<int, std::string>;  ///< volume and path of what was deleted

    /// Bins stand in the root of their volume.
    std::vector<std::string> bin_folders() const {
        std::vector<std::string> out;
        SQLite::Statement q(view_.database(),
                            "SELECT DISTINCT path FROM folders WHERE path LIKE '$%' OR path LIKE '.%'");
        while (q.executeStep()) {
            const auto path = q.getColumn(0).getString();
            if (path.find('/') == std::string::npos && (bin_of(path + "/files") || bin_of(path + "/x/files")))
                out.push_back(path);
        }
        return out;
    }

    std::string content(const ShelfEntry& e) const {
        if (e.is_dir || e.size > most_record_bytes || e.layout == Layout::none) return {};
        ContentStream stream(source_, view_.pieces(e.id), e.size);
        const auto bytes = stream.first(most_record_bytes);
        return {bytes.begin(), bytes.end()};
    }

    /// Reads what the bin itself keeps about a file.
    void learn(const ShelfEntry& e) {
        const auto key_of = [&](const std::string& path) { return Key{e.volume.value_or(0), folded(path)}; };
        if (e.name.starts_with("$I") && e.folder_path.size() >= 12) {
            const auto bytes = content(e);
            const auto record =
                parse_bin_record({reinterpret_cast<const std::uint8_t*>(bytes.data()), bytes.size()});
            if (record)
                told_[key_of(e.folder_path + "/$R" + e.name.substr(2))] = {record->first_path,
                                                                           record->deleted};
        } else if (e.name.ends_with(".trashinfo") && e.folder_path.ends_with("/info")) {
            const auto info = parse_trash_info(content(e));
            const auto bin = e.folder_path.substr(0, e.folder_path.size() - 4) + "files/";
            if (info)
                told_[key_of(bin + e.name.substr(0, e.name.size() - 10))] = {info->first_path, info->deleted};
        }
    }

    /// A file in a binned folder was in that folder's first place.
    void mark(const ShelfEntry& e) {
        const auto place = *bin_of(e.folder_path);
        const auto slash = place.inside.find('/');
        const auto item = place.inside.empty() ? e.name : place.inside.substr(0, slash);
        std::string rest =
            place.inside.empty()
                ? ""
                : (slash == std::string::npos ? "" : place.inside.substr(slash)) + "/" + e.name;
        const auto it = told_.find({e.volume.value_or(0), folded(place.bin + "/" + item)});
        if (it == told_.end()) {
            shelf_.set_bin(e.id, {}, {});
        } else {
            shelf_.set_bin(e.id, it->second.first_path + rest, it->second.deleted);
        }
    }

    const Source& source_;
    ShelfWriter& shelf_;
    Shelf view_;
    std::map<Key, Told> told_;
};

}  // namespace

std::optional<BinRecord> parse_bin_record(Bytes content) {
    if (content.size() < 28) return std::nullopt;
    const auto version = number_at(content, 0, 8);
    if (version != 1 && version != 2) return std::nullopt;
    BinRecord out;
    out.size = number_at(content, 8, 8);
    out.deleted = time_from_filetime(number_at(content, 16, 8));
    const std::size_t from = version == 1 ? 24 : 28;
    const std::uint64_t most = version == 1 ? 260 : number_at(content, 24, 4);
    std::u16string path;
    for (std::size_t at = from; at + 1 < content.size() && path.size() < most; at += 2) {
        const auto unit = static_cast<char16_t>(number_at(content, at, 2));
        if (unit == 0) break;
        path += unit;
    }
    if (path.empty()) return std::nullopt;
    out.first_path = from_windows_path(utf8_from_utf16(path));
    return out;
}

std::optional<TrashInfo> parse_trash_info(std::string_view content) {
    const auto path = line_value(content, "Path=");
    if (!path || path->empty()) return std::nullopt;
    TrashInfo out;
    out.first_path = percent_decoded(*path);
    if (out.first_path.front() == '/') out.first_path.erase(0, 1);
    if (const auto date = line_value(content, "DeletionDate=")) {
        if (const auto span = parse_date(*date)) out.deleted = Timestamp{span->first, Timestamp::local};
    }
    return out;
}

void find_binned(const Source& source, ShelfWriter& shelf, const Progress& progress) {
    BinSearch(source, shelf).run(progress);
    shelf.commit();
}

}  // namespace undershelf
