#include "ntfs/settle.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <map>
#include <unordered_map>

#include "base/text.hpp"
#include "base/units.hpp"
#include "ntfs/file_info.hpp"
#include "ntfs/former.hpp"
#include "ntfs/numbering.hpp"
#include "ntfs/own_leftovers.hpp"
#include "ntfs/traces.hpp"
#include "settling/grid_vote.hpp"
#include "settling/settler.hpp"

namespace undershelf::ntfs {

namespace {

constexpr std::uint32_t largest_cluster = 64 << 10;
constexpr std::size_t most_votes = 8, most_held = 512;
/// Fewer records and index blocks without any geometry are not worth a volume.
constexpr std::size_t fewest_pieces = 3;
/// Where volumes begin by themselves, or after a partition map.
constexpr std::uint64_t usual_starts[] = {0, track, mebibyte};

/// A file record, as far as its trace tells.
struct Found {
    std::uint64_t offset = 0;
    std::uint64_t number = 0;
    std::uint32_t size = 0;
};

struct Candidate : settling::Candidate {
    std::uint64_t offset = 0, end = 0;  ///< of the volume in the source
    Geometry geometry{};
    std::optional<Geometry> boot;  ///< of a boot sector that says so
    std::string label;
};

class Settler final : public settling::Settler<Candidate> {
  public:
    Settler(const Settling& s, const Progress& progress) : settling::Settler<Candidate>(s, progress) {
        gather();
    }

  private:
    bool anything_left() const override { return !records_.empty(); }
    std::vector<Candidate> candidates() override;
    void weigh(Candidate& c) const override;
    void complete(Candidate& c) override;
    void take(const Candidate& c) override;
    Recognition recognition(const Candidate& c) const override;
    std::optional<Recognition> without_geometry() const override;

    void gather();
    void add(std::vector<Candidate>& out, std::uint64_t start, std::uint32_t cluster, const char* found_by,
             const Geometry* boot = nullptr);
    void add_votes(std::vector<Candidate>& out);
    void weigh_record(const Found& r, Candidate& c) const;
    void weigh_boot(Candidate& c) const;
    bool is_record(std::uint64_t place, std::uint64_t number) const;
    void weigh_table(const FileInfo& info, Candidate& c) const;
    std::optional<FileInfo> read(const Found& r, std::uint64_t start, const Geometry& g) const;

    std::vector<Found> records_;                                     ///< ascending by their places
    std::unordered_multimap<std::uint64_t, std::uint64_t> indexes_;  ///< first blocks, by folder's record
    std::vector<TablePart> numbered_;  ///< stretches of records that do not know their numbers
    std::uint64_t index_blocks_ = 0;
    std::uint32_t record_size_ = 1024;
};

void Settler::gather() {
    std::map<std::uint32_t, std::size_t> sizes;
    const AllOwnLeftovers own(s_);
    s_.traces.visit_all(record_trace, [&](const Trace& t) {
        const auto size = static_cast<std::uint32_t>(t.b >> 32);
        if (t.a != no_own_number && own.has_record(t.offset, t.a)) return !progress_.stopped();
        if (t.a != no_own_number) records_.push_back({t.offset, t.a, size});
        ++sizes[size];
        return !progress_.stopped();
    });
    s_.traces.visit_all(index_trace, [&](const Trace& t) {
        if (own.has_block(t.offset)) return !progress_.stopped();
        ++index_blocks_;
        if (t.a == 0 && t.b) indexes_.emplace(t.b & 0xFFFFFFFFFFFF, t.offset);
        return !progress_.stopped();
    });
    const auto most = std::max_element(sizes.begin(), sizes.end(),
                                       [](const auto& a, const auto& b) { return a.second < b.second; });
    if (most != sizes.end() && is_power_of_two(most->first)) record_size_ = most->first;
    std::erase_if(records_, [&](const Found& r) { return r.size != record_size_; });
    numbered_ = number_stretches(s_.source, s_.traces, record_size_, progress_);
    for (const auto& part : numbered_) {
        for (std::uint64_t at = 0; at < part.source.length; at += record_size_)
            records_.push_back({part.source.offset + at, (part.offset + at) / record_size_, record_size_});
    }
    std::sort(records_.begin(), records_.end(),
              [](const Found& a, const Found& b) { return a.offset < b.offset; });
}

std::optional<FileInfo> Settler::read(const Found& r, std::uint64_t start, const Geometry& g) const {
    const auto bytes = record_at(s_.source, r.offset, g);
    if (!bytes) return std::nullopt;
    return read_file(s_.source, start, g, {*bytes, r.offset, false}, r.number,
                     [](std::uint64_t) { return Record(); });
}

// Which geometries may have been.

void Settler::add(std::vector<Candidate>& out, std::uint64_t start, std::uint32_t cluster,
                  const char* found_by, const Geometry* boot) {
    if (start >= s_.source.size() || cluster < 512 || cluster > largest_cluster) return;
    for (auto& c : out) {
        if (c.offset != start || c.geometry.cluster_size != cluster) continue;
        if (boot && !c.boot) c.boot = *boot;
        return;
    }
    Candidate c;
    c.offset = start;
    c.end = s_.source.size();
    c.geometry.cluster_size = cluster;
    c.geometry.record_size = record_size_;
    c.geometry.index_size = 4096;
    c.geometry.clusters = (c.end - start) / cluster;
    c.found_by = found_by;
    if (boot) c.boot = *boot;
    out.push_back(std::move(c));
}

/// The first index block of a folder is where its record says the folder's index begins.
void Settler::add_votes(std::vector<Candidate>& out) {
    Geometry any{};
    any.cluster_size = 512;
    any.record_size = record_size_;
    any.index_size = 4096;
    any.clusters = ~0ull >> 12;
    std::vector<settling::Sighting> pairs;
    for (const auto& r : records_) {
        if (r.number == MFT_REC_MFT) {
            // The table begins with record 0, unless this one is its mirror's.
            const auto info = read(r, 0, any);
            for (const auto& s : info ? info->streams : std::vector<Stream>()) {
                if (s.name.empty() && !s.runs.empty()) pairs.push_back({r.offset, s.runs.front().lcn});
            }
        }
        const auto [from, to] = indexes_.equal_range(r.number);
        if (from == to) continue;
        const auto info = read(r, 0, any);
        if (!info || info->index_runs.empty() || info->index_runs.front().sparse) continue;
        for (auto it = from; it != to; ++it) pairs.push_back({it->second, info->index_runs.front().lcn});
    }
    for (const auto& vote : settling::vote_for_grids(pairs, largest_cluster, most_votes, 1))
        add(out, vote.start, vote.unit_size, "file records and index blocks that agree on its geometry");
}

std::vector<Candidate> Settler::candidates() {
    std::vector<Candidate> out;
    for (const auto& life : s_.present) {
        if (life.volume.family == "NTFS")
            add(out, life.volume.offset, life.volume.cluster_size,
                "file records older than the present volume's, in its geometry");
    }
    for (const auto head : s_.heads) {
        const auto g = read_geometry(s_.source, head);
        const auto* around = s_.present_around(head);
        if (!g || s_.taken.contains(head) || (around && around->family == "NTFS")) continue;
        add(out, head, g->cluster_size, "old boot sector", &*g);
        if (g->size() - g->sector_size > head) continue;
        add(out, head - (g->size() - g->sector_size), g->cluster_size, "copy of an old boot sector", &*g);
    }
    add_votes(out);
    for (const auto start : s_.usual_starts(usual_starts)) {
        for (std::uint32_t size = 512; size <= largest_cluster; size *= 2)
            add(out, start, size, "file records and contents that agree on its geometry");
    }
    return out;
}

// What bears a geometry out.

bool Settler::is_record(std::uint64_t place, std::uint64_t number) const {
    const auto it = std::lower_bound(records_.begin(), records_.end(), place,
                                     [](const Found& f, std::uint64_t x) { return f.offset < x; });
    return it != records_.end() && it->offset == place && it->number == number;
}

/// Every piece of the table that record 0 names begins with the record that belongs there.
void Settler::weigh_table(const FileInfo& info, Candidate& c) const {
    for (const auto& s : info.streams) {
        if (!s.name.empty()) continue;
        std::uint64_t bytes = 0;
        for (const auto& run : s.runs) {
            const auto at = c.offset + run.lcn * c.geometry.cluster_size;
            // Of the first piece more must be there than the four records that the mirror has as well.
            const bool stands =
                is_record(at, bytes / record_size_) &&
                (bytes > 0 || is_record(at + 5 * record_size_, 5) || is_record(at + 24 * record_size_, 24));
            // A table is no matter of chance: it counts like several contents.
            // Where a boot sector tells the geometry, it may have been written over.
            for (int i = 0; i < 4 && !run.sparse && (stands || !c.boot); ++i) c.evidence.folder(stands);
            bytes += run.count * c.geometry.cluster_size;
        }
    }
}

void Settler::weigh_record(const Found& r, Candidate& c) const {
    const auto info = read(r, c.offset, c.geometry);
    if (!info) return;
    const auto place = [&](const Run& run) { return c.offset + run.lcn * c.geometry.cluster_size; };
    if (r.number == MFT_REC_MFT) return weigh_table(*info, c);
    if (!info->index_runs.empty() && !info->index_runs.front().sparse) {
        const auto at = place(info->index_runs.front());
        const auto [from, to] = indexes_.equal_range(r.number);
        const bool stands = std::any_of(from, to, [&](const auto& x) { return x.second == at; });
        if (stands || from != to) c.evidence.folder(stands);
        return;
    }
    if (info->names.empty()) return;
    for (const auto& s : info->streams) {
        const bool plain = s.name.empty() && !s.resident && !s.runs.empty() && !s.runs.front().sparse &&
                           !(s.flags & (ATTR_FLAG_COMPRESSED | ATTR_FLAG_ENCRYPTED));
        if (!plain || s.size == 0) continue;
        const auto at = place(s.runs.front());
        if (at >= s_.source.size()) {
            c.evidence.outside();
        } else if (!s_.taken.contains(at)) {
            const auto first = s_.source.read_vector({at, std::min<std::uint64_t>(s.size, signature_bytes)});
            const auto ext = extension_of(utf8_from_utf16(info->names.back().name));
            c.evidence.file(first, ext);
        }
        return;
    }
}

/// A boot sector that is where it says, and a table or its mirror where it says, are no matter of chance.
void Settler::weigh_boot(Candidate& c) const {
    if (!c.boot) return;
    for (const auto cluster : {c.boot->boot.mft_clst.value(), c.boot->boot.mft2_clst.value()}) {
        const auto at = c.offset + cluster * c.geometry.cluster_size;
        if (record_at(s_.source, at, *c.boot)) c.evidence.folder(true), c.evidence.folder(true);
    }
}

void Settler::weigh(Candidate& c) const {
    weigh_boot(c);
    const auto step = std::max<std::size_t>(1, records_.size() / most_held);
    for (std::size_t i = 0; i < records_.size(); i += step) {
        const auto& r = records_[i];
        if (r.offset >= c.offset && r.number >= MFT_REC_FREE) weigh_record(r, c);
    }
    for (const auto& r : records_) {
        if (r.offset >= c.offset && r.number == MFT_REC_MFT) weigh_record(r, c);
    }
}

/// How long it was: a boot sector tells, or its bad-cluster file, which is as long as the volume.
void Settler::complete(Candidate& c) {
    const auto told = c.boot ? c.boot->size() : 0;
    std::uint64_t size = told;
    for (const auto& r : records_) {
        if (r.number == MFT_REC_VOL && r.offset >= c.offset) {
            const auto bytes = record_at(s_.source, r.offset, c.geometry);
            for (const auto& a : attributes_of(bytes ? Bytes(*bytes) : Bytes())) {
                if (a.type == ATTR_LABEL) c.label = utf8_from_utf16(utf16_units(a.value()));
            }
        }
        if (told || r.number != MFT_REC_BADCLUST || r.offset < c.offset) continue;
        if (const auto info = read(r, c.offset, c.geometry)) {
            for (const auto& s : info->streams) {
                if (s.name == u"$Bad")
                    size = std::max(size, std::max(s.size, cluster_total(s.runs) * c.geometry.cluster_size));
            }
        }
    }
    const auto* around = s_.present_around(c.offset);
    if (size && size <= s_.source.size() - c.offset) {
        c.end = c.offset + size;
    } else if (around && around->offset == c.offset) {
        c.end = std::min(around->offset + around->size, s_.source.size());
    }
    c.geometry.clusters = (c.end - c.offset) / c.geometry.cluster_size;
    c.votes.push_back(
        fmt::format("Of the contents and folder indexes that its file records name and could be looked at, "
                    "{} stand where "
                    "they should and {} do not.",
                    grouped(c.evidence.agrees()), grouped(c.evidence.contradicts())));
}

Recognition Settler::recognition(const Candidate& c) const {
    Recognition r;
    auto& v = r.volume;
    v.family = v.file_system = "NTFS";
    v.offset = v.grid_start = c.offset;
    v.size = c.end - c.offset;
    v.cluster_size = c.geometry.cluster_size;
    const bool alone = s_.nothing_over({v.offset, v.size});
    if (alone) v.label = c.label;
    v.state = alone ? VolumeState::present : VolumeState::former;
    settling::describe(v, c);
    v.geometry = pack_geometry(c.geometry, numbered_);
    return r;
}

/// Records and index blocks of which nothing tells the geometry: their names, and what is kept in records.
std::optional<Recognition> Settler::without_geometry() const {
    if (records_.size() + index_blocks_ < fewest_pieces) return std::nullopt;
    Recognition r;
    auto& v = r.volume;
    v = s_.somewhere("NTFS", "file records and index blocks of which nothing tells the geometry");
    v.geometry = pack_geometry(no_geometry(record_size_), numbered_);
    v.votes = fmt::format(
        "{} file records and {} index blocks are left that fit no geometry: names and what is "
        "kept in records come back, other contents do not.",
        grouped(records_.size()), grouped(index_blocks_));
    return r;
}

void Settler::take(const Candidate& c) {
    const ByteRange range{c.offset, c.end - c.offset};
    std::erase_if(records_, [&](const Found& r) { return range.contains(r.offset); });
    std::erase_if(indexes_, [&](const auto& x) { return range.contains(x.second); });
    index_blocks_ = indexes_.size();
}

}  // namespace

std::vector<Recognition> settle(const Settling& settling, const Progress& progress) {
    return Settler(settling, progress).run();
}

}  // namespace undershelf::ntfs
