#include "bins/bin_records.hpp"

#include <fmt/format.h>

#include <algorithm>

#include "base/slash_path.hpp"
#include "base/text.hpp"

namespace undershelf {

namespace {

std::uint64_t number_at(Bytes b, std::size_t at, int bytes) {
    std::uint64_t v = 0;
    for (int i = 0; i < bytes; ++i) v |= std::uint64_t{b[at + static_cast<std::size_t>(i)]} << 8 * i;
    return v;
}

/// Up to a unit of 0, or `most` units.
std::u16string units_at(Bytes b, std::size_t at, std::uint64_t most) {
    std::u16string out;
    for (; at + 1 < b.size() && out.size() < most; at += 2) {
        const auto unit = static_cast<char16_t>(number_at(b, at, 2));
        if (unit == 0) break;
        out += unit;
    }
    return out;
}

/// `C:\Users\odile\script.txt` is `Users/odile/script.txt` on its volume. Nothing for what leads nowhere.
std::string from_windows_path(std::string path) {
    std::replace(path.begin(), path.end(), '\\', '/');
    if (path.size() > 1 && path[1] == ':') path.erase(0, 2);
    path.erase(0, path.find_first_not_of('/'));
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

}  // namespace

std::optional<BinRecord> parse_windows_record(Bytes content) {
    if (content.size() < 28) return std::nullopt;
    const auto version = number_at(content, 0, 8);
    if (version != 1 && version != 2) return std::nullopt;
    BinRecord out;
    out.size = number_at(content, 8, 8);
    out.deleted = time_from_filetime(number_at(content, 16, 8));
    const std::size_t from = version == 1 ? 24 : 28;
    const std::uint64_t most = version == 1 ? 260 : number_at(content, 24, 4);
    out.first_path = from_windows_path(utf8_from_utf16(units_at(content, from, most)));
    if (out.first_path.empty()) return std::nullopt;
    return out;
}

std::vector<BinRecord> parse_info2(Bytes content) {
    constexpr std::size_t header = 20, ansi_path = 260, ansi_record = 280, unicode_record = 800;
    std::vector<BinRecord> out;
    if (content.size() < header) return out;
    const auto length = static_cast<std::size_t>(number_at(content, 12, 4));
    const auto version = number_at(content, 0, 4);
    if ((length != ansi_record && length != unicode_record) || version > 5) return out;
    static const CodePage ansi("1252");
    for (std::size_t at = header; at + length <= content.size(); at += length) {
        const auto record = content.subspan(at, length);
        const auto end = std::find(record.begin() + 1, record.begin() + ansi_path, 0);
        auto path = length == unicode_record
                        ? utf8_from_utf16(units_at(record, ansi_record, ansi_path))
                        : ansi.utf8(record.first(static_cast<std::size_t>(end - record.begin())));
        const auto number = number_at(record, ansi_path, 4), drive = number_at(record, ansi_path + 4, 4);
        BinRecord r;
        r.first_path = from_windows_path(std::move(path));
        if (r.first_path.empty() || drive >= 26) continue;
        const auto ext = extension_of(name_in(r.first_path));
        r.name =
            fmt::format("D{}{}{}{}", static_cast<char>('a' + drive), number, ext.empty() ? "" : ".", ext);
        r.deleted = time_from_filetime(number_at(record, ansi_path + 8, 8));
        out.push_back(std::move(r));
    }
    return out;
}

std::optional<BinRecord> parse_trash_info(std::string_view content) {
    const auto path = line_value(content, "Path=");
    if (!path) return std::nullopt;
    BinRecord out;
    out.first_path = percent_decoded(*path);
    out.first_path.erase(0, out.first_path.find_first_not_of('/'));
    if (out.first_path.empty()) return std::nullopt;
    if (const auto date = line_value(content, "DeletionDate=")) {
        if (const auto span = parse_date(*date)) out.deleted = Timestamp{span->first, Timestamp::local};
    }
    return out;
}

}  // namespace undershelf
