#include "ntfs/former.hpp"

#include <fmt/format.h>

#include <algorithm>

#include "base/error.hpp"
#include "base/number_lines.hpp"
#include "base/text.hpp"
#include "ntfs/reader.hpp"
#include "ntfs/traces.hpp"

namespace undershelf::ntfs {

namespace {
constexpr std::uint32_t largest_cluster = 2 << 20;
}  // namespace

std::string pack_geometry(const Geometry& g, const std::vector<TablePart>& numbered) {
    NumberLines out;
    out.add("sector", {g.sector_size});
    out.add("cluster", {g.cluster_size});
    out.add("record", {g.record_size});
    out.add("index", {g.index_size});
    out.add("clusters", {g.clusters});
    for (const auto& p : numbered) out.add("part", {p.offset, p.source.offset, p.source.length});
    return out.text();
}

std::optional<Geometry> unpack_geometry(const std::string& text) {
    const NumberLines lines(text);
    const auto number = [&](const char* word) { return lines.one(word).value_or(0); };
    const auto power = [&](const char* word, std::uint64_t from, std::uint64_t to) {
        const auto n = number(word);
        return n >= from && n <= to && is_power_of_two(n);
    };
    if (!power("sector", 512, 4096) || !power("cluster", 512, largest_cluster) ||
        !power("record", 512, 64 << 10) || !power("index", 512, 64 << 10))
        return std::nullopt;
    Geometry g{};
    g.sector_size = static_cast<std::uint32_t>(number("sector"));
    g.cluster_size = static_cast<std::uint32_t>(number("cluster"));
    g.record_size = static_cast<std::uint32_t>(number("record"));
    g.index_size = static_cast<std::uint32_t>(number("index"));
    g.clusters = number("clusters");
    return g;
}

Geometry no_geometry(std::uint32_t record_size) {
    Geometry g{};
    g.record_size = record_size;
    return g;
}

std::vector<TablePart> table_parts(const TraceStore& traces, const ByteRange& where,
                                   std::uint32_t record_size, const std::vector<TablePart>& numbered) {
    // Runs of records whose places and numbers go on alike.
    std::vector<TablePart> runs;
    traces.visit(record_trace, where, [&](const Trace& t) {
        if (t.a == no_own_number || t.b >> 32 != record_size) return true;
        const auto at = t.a * record_size;
        auto* last = runs.empty() ? nullptr : &runs.back();
        const bool goes_on = last && at >= last->offset && t.offset >= last->source.offset &&
                             at - last->offset == t.offset - last->source.offset;
        if (goes_on) {
            last->source.length = t.offset - last->source.offset + record_size;
        } else {
            runs.push_back({at, {t.offset, record_size}});
        }
        return true;
    });
    for (const auto& part : numbered) {
        if (where.contains(part.source.offset)) runs.push_back(part);
    }
    std::stable_sort(runs.begin(), runs.end(), [](const TablePart& a, const TablePart& b) {
        return a.source.length > b.source.length;
    });
    RangeSet told;  // of the table, bytes
    std::vector<TablePart> out;
    for (const auto& r : runs) {
        for (const auto& part : told.gaps_within({r.offset, r.source.length}))
            out.push_back({part.offset, {r.source.offset + (part.offset - r.offset), part.length}});
        told.add({r.offset, r.source.length});
    }
    std::sort(out.begin(), out.end(),
              [](const TablePart& a, const TablePart& b) { return a.offset < b.offset; });
    return out;
}

namespace {
/// The table by the run list of record 0 among `found`, where all of these are as it says; else nothing.
std::vector<TablePart> parts_by_run_list(const Source& source, std::uint64_t volume, const Geometry& g,
                                         const std::vector<TablePart>& found) {
    if (found.empty() || found.front().offset != 0) return {};
    const auto bytes = record_at(source, found.front().source.offset, g);
    if (!bytes) return {};
    const auto info = read_file(source, volume, g, {*bytes, found.front().source.offset, false}, MFT_REC_MFT,
                                [](std::uint64_t) { return Record(); });
    std::vector<TablePart> out;
    for (const auto& s : info.streams) {
        if (!s.name.empty() || s.broken) continue;
        std::uint64_t at = 0;
        for (const auto& run : s.runs) {
            const auto length = run.count * g.cluster_size;
            if (!run.sparse) out.push_back({at, {volume + run.lcn * g.cluster_size, length}});
            at += length;
        }
    }
    const bool agrees = std::all_of(found.begin(), found.end(), [&](const TablePart& f) {
        return std::any_of(out.begin(), out.end(), [&](const TablePart& p) {
            return f.offset >= p.offset && f.offset - p.offset < p.source.length &&
                   f.source.offset == p.source.offset + (f.offset - p.offset);
        });
    });
    return agrees ? out : std::vector<TablePart>();
}
}  // namespace

std::unique_ptr<VolumeReader> open_former(const Source& source, const Volume& volume,
                                          const TraceStore& traces) {
    const auto g = unpack_geometry(volume.geometry);
    if (!g)
        throw Error(Trouble::input, fmt::format("What the shelf says of the NTFS volume at offset {} cannot "
                                                "be understood; scan the source again.",
                                                volume.offset));
    const ByteRange range{volume.offset, volume.size};
    std::vector<TablePart> numbered;
    for (const auto& p : NumberLines(volume.geometry).all("part", 3))
        numbered.push_back({p[0], {p[1], p[2]}});
    auto parts = table_parts(traces, range, g->record_size, numbered);
    // The table of a volume over which nothing was formatted is where its own record says.
    if (volume.state == VolumeState::present) {
        if (auto whole = parts_by_run_list(source, volume.offset, *g, parts); !whole.empty())
            parts = std::move(whole);
    }
    std::vector<std::uint64_t> blocks;
    if (volume.state == VolumeState::former) {
        traces.visit(index_trace, range, [&](const Trace& t) {
            blocks.push_back(t.offset);
            return true;
        });
    }
    return std::make_unique<Reader>(source, volume, *g, Mft(source, volume.offset, *g, std::move(parts)),
                                    std::move(blocks));
}

Recognition as_told(const VolumeHint& told, const Settling& settling) {
    if (!told.cluster_size || *told.cluster_size < 512 || *told.cluster_size > largest_cluster ||
        !is_power_of_two(*told.cluster_size))
        throw Error(
            Trouble::usage,
            fmt::format("Nothing at offset {} says how large the clusters of an NTFS volume are; give "
                        "it as well, a power of two: --volume-at {},NTFS,4096.",
                        told.offset, told.offset));
    Geometry g{};
    g.cluster_size = *told.cluster_size;
    g.clusters = (settling.source.size() - told.offset) / g.cluster_size;
    std::uint64_t records = 0;
    const ByteRange rest{told.offset, settling.source.size() - told.offset};
    settling.traces.visit(record_trace, rest, [&](const Trace& t) {
        if (++records == 1) g.record_size = static_cast<std::uint32_t>(t.b >> 32);
        return true;
    });
    if (records == 0)
        throw Error(Trouble::usage,
                    fmt::format("No file record of an NTFS volume was found after offset {}.", told.offset));
    Recognition r;
    auto& v = r.volume;
    v.family = v.file_system = "NTFS";
    v.offset = v.grid_start = told.offset;
    v.size = g.clusters * g.cluster_size;
    v.cluster_size = g.cluster_size;
    v.state = VolumeState::former;
    v.found_by = "told";
    v.geometry = pack_geometry(g);
    v.votes = fmt::format("{} file records were found after its start.", grouped(records));
    return r;
}

}  // namespace undershelf::ntfs
