#include "shelf/scan_state.hpp"

#include <SQLiteCpp/Statement.h>
#include <fmt/format.h>

#include <charconv>
#include <sstream>

#include "base/number_lines.hpp"

namespace undershelf {

namespace {

// The names of the rows; those of volumes end with their number.
constexpr const char *settings_row = "scan", *brought_up_row = "brought up", *told_row = "volumes told",
                     *left_out_row = "volumes left out", *gained_row = "gained",
                     *starts_row = "starts of contents", *contents_row = "contents",
                     *basis_row = "unnamed basis", *reached_row = "unnamed reached",
                     *bare_row = "partitions without a volume", *unread_row = "file systems not read",
                     *discards_row = "takes discards", *space_row = "space",
                     *content_seconds_row = "content seconds";
constexpr std::string_view lost_folders_rows = "lost folders of volume ", discards_rows = "discards ";

std::uint64_t number_in(std::string_view text) {
    std::uint64_t out = 0;
    std::from_chars(text.data(), text.data() + text.size(), out);
    return out;
}

/// `3 of 12`
ScanState::Discards discards_in(const std::string& text) {
    const auto of = text.find(" of ");
    if (of == std::string::npos) return {};
    return {number_in(text), number_in(std::string_view(text).substr(of + 4))};
}

std::vector<VolumeHint> told_in(const std::string& text) {
    std::vector<VolumeHint> out;
    std::istringstream in(text);
    VolumeHint t;
    std::uint64_t cluster = 0, data = 0;
    bool has_data = false;
    while (in >> t.offset >> t.system >> cluster >> has_data >> data) {
        t.cluster_size = cluster ? std::optional(static_cast<std::uint32_t>(cluster)) : std::nullopt;
        t.data_offset = has_data ? std::optional(data) : std::nullopt;
        out.push_back(t);
    }
    return out;
}
std::string text_of(const std::vector<VolumeHint>& told) {
    std::string out;
    for (const auto& t : told)
        out += fmt::format("{} {} {} {:d} {}\n", t.offset, t.system, t.cluster_size.value_or(0),
                           t.data_offset.has_value(), t.data_offset.value_or(0));
    return out;
}

std::vector<ScanState::Identity> identities_in(const std::string& text) {
    std::vector<ScanState::Identity> out;
    std::istringstream in(text);
    ScanState::Identity i;
    while (in >> i.family >> i.grid_start >> i.cluster_size) out.push_back(i);
    return out;
}
std::string text_of(const std::vector<ScanState::Identity>& identities) {
    std::string out;
    for (const auto& i : identities) out += fmt::format("{} {} {}\n", i.family, i.grid_start, i.cluster_size);
    return out;
}

RangeSet ranges_in(const std::string& text) {
    std::vector<ByteRange> out;
    for (const auto& n : NumberLines(text).all("range", 2)) out.push_back({n[0], n[1]});
    return RangeSet(std::move(out));
}
std::string text_of(const RangeSet& ranges) {
    NumberLines out;
    for (const auto& r : ranges.ranges()) out.add("range", {r.offset, r.length});
    return out.text();
}

/// A line each: offset, length, what.
std::vector<ScanState::Place> places_in(const std::string& text) {
    std::vector<ScanState::Place> out;
    std::istringstream in(text);
    for (std::string line; std::getline(in, line);) {
        std::istringstream row(line);
        ScanState::Place p;
        if (row >> p.range.offset >> p.range.length && std::getline(row >> std::ws, p.what)) out.push_back(p);
    }
    return out;
}
std::string text_of(const std::vector<ScanState::Place>& places) {
    std::string out;
    for (const auto& p : places) out += fmt::format("{} {} {}\n", p.range.offset, p.range.length, p.what);
    return out;
}

std::optional<SpaceLook> space_in(const std::string& text) {
    std::istringstream in(text);
    SpaceLook s;
    if (!(in >> s.bytes >> s.looked >> s.data >> s.starts >> s.traces >> s.data_in_volumes >>
          s.traces_in_volumes))
        return std::nullopt;
    return s;
}
std::string text_of(const std::optional<SpaceLook>& s) {
    return s ? fmt::format("{} {} {} {} {} {} {}", s->bytes, s->looked, s->data, s->starts, s->traces,
                           s->data_in_volumes, s->traces_in_volumes)
             : std::string();
}

std::optional<double> seconds_in(const std::string& text) {
    double out = 0;
    const auto [end, error] = std::from_chars(text.data(), text.data() + text.size(), out);
    return error == std::errc{} && out >= 0 ? std::optional(out) : std::nullopt;
}

void take(ScanState& to, const std::string& name, const std::string& value) {
    const auto of_volume = [&](std::string_view rows, auto& by_volume, const auto& read) {
        if (name.starts_with(rows))
            by_volume[static_cast<int>(number_in(std::string_view(name).substr(rows.size())))] = read(value);
    };
    if (name == settings_row) to.settings = value;
    if (name == brought_up_row) to.brought_up_from = static_cast<int>(number_in(value));
    if (name == told_row) to.told = told_in(value);
    if (name == left_out_row) to.left_out = identities_in(value);
    if (name == gained_row) to.gained = ranges_in(value);
    if (name == starts_row) to.starts_to = number_in(value);
    if (name == contents_row) to.contents = value;
    if (name == basis_row) to.unnamed_basis = value;
    if (name == reached_row) to.unnamed_reached = number_in(value);
    if (name == bare_row) to.bare_partitions = places_in(value);
    if (name == unread_row) to.unread_systems = places_in(value);
    if (name == discards_row) to.takes_discards = true;
    if (name == space_row) to.space = space_in(value);
    if (name == content_seconds_row) to.content_seconds = seconds_in(value);
    of_volume(lost_folders_rows, to.lost_folders, [](const std::string& text) { return text; });
    of_volume(discards_rows, to.discards, discards_in);
}

std::string number_or_nothing(std::uint64_t n) {
    return n ? std::to_string(n) : std::string();
}

}  // namespace

ScanState read_scan_state(SQLite::Database& db) {
    ScanState out;
    SQLite::Statement q(db, "SELECT name, value FROM settings");
    while (q.executeStep()) take(out, q.getColumn(0).getString(), q.getColumn(1).getString());
    return out;
}

void write_scan_state(SQLite::Database& db, const ScanState& state) {
    SQLite::Statement put(db, "INSERT OR REPLACE INTO settings VALUES(?,?)");
    SQLite::Statement drop(db, "DELETE FROM settings WHERE name = ?");
    const auto row = [&](const std::string& name, const std::string& value) {
        auto& s = value.empty() ? drop : put;
        s.reset();
        s.bind(1, name);
        if (!value.empty()) s.bind(2, value);
        s.exec();
    };
    row(settings_row, state.settings);
    row(brought_up_row, number_or_nothing(static_cast<std::uint64_t>(state.brought_up_from)));
    row(told_row, text_of(state.told));
    row(left_out_row, text_of(state.left_out));
    row(gained_row, text_of(state.gained));
    row(starts_row, number_or_nothing(state.starts_to));
    row(contents_row, state.contents);
    row(basis_row, state.unnamed_basis);
    row(reached_row, number_or_nothing(state.unnamed_reached));
    row(bare_row, text_of(state.bare_partitions));
    row(unread_row, text_of(state.unread_systems));
    row(discards_row, state.takes_discards ? "yes" : "");
    row(space_row, text_of(state.space));
    row(content_seconds_row, state.content_seconds ? fmt::format("{:.3f}", *state.content_seconds) : "");
    for (const auto& [volume, print] : state.lost_folders)
        row(fmt::format("{}{}", lost_folders_rows, volume), print);
    for (const auto& [volume, d] : state.discards)
        row(fmt::format("{}{}", discards_rows, volume), fmt::format("{} of {}", d.zeros, d.files));
}

}  // namespace undershelf
