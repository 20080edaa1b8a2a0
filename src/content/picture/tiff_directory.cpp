#include "content/picture/tiff_directory.hpp"

#include <algorithm>
#include <array>
#include <set>

#include "content/memory.hpp"
#include "content/picture/tiff_tags.hpp"

namespace undershelf::content {

namespace {

/// TIFF 6.0, section 2, and its supplements: bytes of a value by its type; 0 for types that there are not.
constexpr std::array<std::uint8_t, 19> type_sizes{0, 1, 1, 2, 4, 8, 1, 1, 2, 4, 8, 4, 8, 4, 0, 0, 8, 8, 8};
constexpr std::uint16_t ascii_type = 2, float_type = 11, double_type = 12;

}  // namespace

const TiffEntry* TiffDirectory::entry(std::uint16_t tag) const {
    const auto it = entries.find(tag);
    return it == entries.end() ? nullptr : &it->second;
}

std::uint64_t TiffFile::value(Bytes bytes) const {
    std::uint64_t out = 0;
    for (std::size_t i = 0; i < bytes.size(); ++i)
        out = out << 8 | bytes[big_endian_ ? i : bytes.size() - 1 - i];
    return out;
}

std::uint64_t TiffFile::first_directory() {
    std::array<std::uint8_t, 16> bytes{};
    const Bytes head = Bytes(bytes).first(content_.read(0, bytes));
    if (head.size() < 8) throw TiffWrong{0, "it ends within its head"};
    big_endian_ = head[0] == 'M';
    magic_ = static_cast<std::uint16_t>(value(head.subspan(2, 2)));
    wide_ = magic_ == big_tiff_magic;
    if (!wide_) return value(head.subspan(4, 4));
    if (head.size() < 16 || value(head.subspan(4, 2)) != 8) throw TiffWrong{0, "its head makes no sense"};
    return value(head.subspan(8, 8));
}

void TiffFile::reach(const TiffDirectory& directory, std::uint64_t at, std::uint64_t size) {
    if (at > content_.size() || size > content_.size() - at)
        throw TiffWrong{std::min({directory.at, at, content_.size()}), "something of it is after its end",
                        true};
    end_ = std::max(end_, at + size);
}

TiffDirectory TiffFile::read_directory(std::uint64_t at) {
    // Nothing vouches for what is before a directory that cannot be read.
    const TiffWrong wrong{std::min<std::uint64_t>(at, 8), "its directory makes no sense"};
    const std::size_t count_size = wide_ ? 8 : 2, entry_size = wide_ ? 20 : 12, link_size = wide_ ? 8 : 4;
    TiffDirectory out;
    out.at = at;
    PartOfContent there(content_, std::min(at, content_.size()),
                        content_.size() - std::min(at, content_.size()));
    Cursor cursor(there);
    const auto count_bytes = cursor.take(count_size);
    if (count_bytes.size() < count_size) throw TiffWrong{wrong.at, "it ends before its directory"};
    const auto count = value(count_bytes);
    if (count == 0 || count > 0xFFFF) throw wrong;
    for (std::uint64_t i = 0; i < count; ++i) {
        const auto entry_at = at + cursor.at();
        const auto bytes = cursor.take(entry_size);
        if (bytes.size() < entry_size) throw TiffWrong{wrong.at, "its directory is cut off"};
        TiffEntry e;
        const auto tag = static_cast<std::uint16_t>(value(bytes.first(2)));
        e.type = static_cast<std::uint16_t>(value(bytes.subspan(2, 2)));
        e.count = value(bytes.subspan(4, link_size));
        if (e.type >= type_sizes.size() || type_sizes[e.type] == 0) {
            // Cameras' own tags are in any type; a directory of nothing else is none.
            if (e.type > 0xFF) throw wrong;
            continue;
        }
        if (e.count > content_.size()) throw wrong;
        e.size = e.count * type_sizes[e.type];
        const bool inside = e.size <= link_size;
        e.at = inside ? entry_at + entry_size - link_size : value(bytes.last(link_size));
        if (!inside) reach(out, e.at, e.size);
        out.entries.emplace(tag, e);
    }
    const auto link = cursor.take(link_size);
    if (link.size() < link_size) throw TiffWrong{wrong.at, "its directory is cut off"};
    out.next = value(link);
    reach(out, at, cursor.at());
    return out;
}

void TiffFile::read() {
    std::vector<std::uint64_t> open{first_directory()};
    std::set<std::uint64_t> seen;
    // Directories that overlap could be read over and over.
    std::uint64_t budget = std::min<std::uint64_t>(content_.size() / 4 + 1000, 1 << 20);
    while (!open.empty()) {
        const auto at = open.back();
        open.pop_back();
        if (at == 0 || !seen.insert(at).second) continue;
        auto directory = read_directory(at);
        if (directory.entries.size() > budget) throw TiffWrong{8, "its directories overlap"};
        budget -= directory.entries.size();
        for (const auto tag : {tag::sub_directories, tag::exif_directory, tag::gps_directory}) {
            const auto* entry = directory.entry(tag);
            if (!entry) continue;
            const auto places = numbers(*entry);
            open.insert(open.end(), places.rbegin(), places.rend());
        }
        open.push_back(directory.next);
        directories_.push_back(std::move(directory));
    }
    if (directories_.empty()) throw TiffWrong{0, "it has no directory"};
}

std::vector<std::uint64_t> TiffFile::numbers(const TiffEntry& entry) {
    if (entry.type == ascii_type || entry.type == float_type || entry.type == double_type) return {};
    const std::size_t width = type_sizes[entry.type];
    constexpr std::uint64_t most = 1 << 22;  // strips, and any other list there is
    if (entry.count > most) throw TiffWrong{8, "a list of its directory is too long"};
    const MemoryClaim memory(entry.size + entry.count * sizeof(std::uint64_t));
    ByteVector bytes(static_cast<std::size_t>(entry.size));
    bytes.resize(content_.read(entry.at, bytes));
    std::vector<std::uint64_t> out;
    for (std::size_t i = 0; i + width <= bytes.size(); i += width)
        out.push_back(value(Bytes(bytes).subspan(i, width)));
    return out;
}

std::uint64_t TiffFile::number(const TiffDirectory& directory, std::uint16_t tag, std::uint64_t otherwise) {
    const auto* entry = directory.entry(tag);
    if (!entry) return otherwise;
    const auto all = numbers(*entry);
    return all.empty() ? otherwise : all.front();
}

}  // namespace undershelf::content
