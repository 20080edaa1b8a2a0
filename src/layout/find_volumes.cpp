#include "layout/find_volumes.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <set>

#include "base/units.hpp"
#include "layout/known_others.hpp"
#include "layout/usual_places.hpp"

namespace undershelf {

namespace {

constexpr int most_volumes = 256;
/// Places in holes of sparse files that are passed by; the ones after count as looked at.
constexpr std::uint64_t most_skipped = 1 << 24;

class Search {
  public:
    Search(const Source& source, const std::vector<const FileSystem*>& file_systems,
           const ReadOptions& options, const SearchLimits& limits)
        : source_(source),
          file_systems_(file_systems),
          options_(options),
          limits_(limits),
          looks_left_(limits.places) {}

    SourceLayout run() {
        // A volume at byte 0 is a source without a map; its boot code may look like one.
        if (!at_head(0)) out_.map = read_partition_map(source_);
        if (out_.map) {
            for (auto& p : out_.map->partitions) hold_against(p);
            if (out_.volumes.empty() && out_.map->scheme == "MBR") try_large_sectors();
        }
        search_gaps();
        if (out_.volumes.empty() && !out_.map) at_other(0, source_.size());
        return finish();
    }

  private:
    bool full() const { return out_.volumes.size() >= most_volumes; }

    bool add(Recognition&& found) {
        const ByteRange range{found.volume.offset, std::max<std::uint64_t>(found.volume.size, 512)};
        for (auto& other : out_.volumes) {
            const ByteRange taken{other.volume.offset, std::max<std::uint64_t>(other.volume.size, 512)};
            if (!overlap(range, taken)) continue;
            auto& worse = found.volume.support > other.volume.support ? other : found;
            const auto& better = &worse == &found ? other : found;
            out_.remarks.push_back(fmt::format(
                "A {} volume at offset {} overlaps the better supported {} volume at {} and is passed over.",
                worse.volume.file_system, worse.volume.offset, better.volume.file_system,
                better.volume.offset));
            if (&worse == &found) return false;
            std::swap(found, other);
            return true;
        }
        out_.volumes.push_back(std::move(found));
        return true;
    }

    /// The best supported volume whose head is at `offset`.
    bool at_head(std::uint64_t offset) {
        if (full() || offset >= source_.size() || !looked_.insert(offset).second) return false;
        std::optional<Recognition> best;
        for (const auto* fs : file_systems_) {
            auto r = fs->recognise(source_, offset, options_);
            if (r && (!best || r->volume.support > best->volume.support)) best = std::move(r);
        }
        return best && add(std::move(*best));
    }

    /// The best supported volume of which a copy of the head is where one would be if it filled `stretch`. A
    /// copy may be elsewhere by chance or from an older volume, so its volume must begin in `within`,
    /// where nobody else is.
    bool at_copies(const ByteRange& stretch, const ByteRange& within) {
        if (full()) return false;
        std::optional<Recognition> best;
        for (const auto* fs : file_systems_) {
            for (const auto place : fs->copy_places(stretch, source_.sector_size())) {
                if (place >= source_.size()) continue;
                for (auto& r : fs->recognise_copy(source_, place, options_)) {
                    if (!within.contains(r.volume.offset) || is_taken(r.volume.offset)) continue;
                    if (!best || r.volume.support > best->volume.support) best = std::move(r);
                }
            }
        }
        if (!best) return false;
        best->remarks.insert(
            best->remarks.begin(),
            fmt::format("Its head is damaged or gone; it was found by the {}.", best->volume.found_by));
        return add(std::move(*best));
    }

    bool at_other(std::uint64_t offset, std::uint64_t room) {
        if (full()) return false;
        auto other = recognise_other(source_, offset);
        if (!other) return false;
        if (other->volume.size == 0) other->volume.size = std::min(room, source_.size() - offset);
        return add(std::move(*other));
    }

    /// What is where a partition says?
    void hold_against(Partition& p) {
        if (!p.is_room() || p.offset >= source_.size()) return;
        const auto before = out_.volumes.size();
        const bool found = at_head(p.offset) || at_copies({p.offset, p.size}, {p.offset, p.size}) ||
                           at_other(p.offset, p.size);
        if (!found) {
            if (p.state == "ok") p.state = "no volume recognised in it";
            return;
        }
        if (out_.volumes.size() == before) return;
        const auto& v = out_.volumes.back().volume;
        const bool type_names_another =
            (p.type.starts_with("FAT") && v.family != "FAT") ||
            (p.type == "NTFS or exFAT" && v.family != "NTFS" && v.family != "exFAT") ||
            (p.type == "HFS+" && v.family != "HFS+") || (p.type == "HFS or HFS+" && v.family != "HFS+");
        if (p.state == "ok" && type_names_another)
            p.state = fmt::format("holds {} although its type says {}", v.file_system, p.type);
        if (v.offset + v.size > p.offset + p.size + source_.sector_size()) {
            p.state =
                fmt::format("its volume is {} bytes longer than it", v.offset + v.size - p.offset - p.size);
        }
    }

    /// An image does not tell the sectors of the drive it came from; an MBR counts in them.
    void try_large_sectors() {
        auto map = read_mbr(source_, 4096);
        if (!map) return;
        for (auto& p : map->partitions) hold_against(p);
        if (!out_.volumes.empty()) out_.map = std::move(map);
    }

    /// Stretches of the source that belong to no volume and to no partition of a sound map.
    std::vector<ByteRange> gaps() const {
        std::vector<ByteRange> taken;
        for (const auto& r : out_.volumes) taken.push_back({r.volume.offset, r.volume.size});
        if (out_.map && out_.map->condition == "ok") {
            for (const auto& p : out_.map->partitions) {
                if (p.is_room()) taken.push_back({p.offset, p.size});
            }
        }
        const RangeSet used(std::move(taken));
        std::vector<ByteRange> out;
        std::uint64_t at = 0;
        for (const auto& r : used.ranges()) {
            if (r.offset > at) out.push_back({at, r.offset - at});
            at = r.end();
        }
        if (at < source_.size()) out.push_back({at, source_.size() - at});
        return out;
    }

    /// Volumes that no map knows of, in the gaps between those that are found. A map that is sound leaves
    /// few.
    void search_gaps() {
        struct Searched {
            ByteRange gap;
            UsualPlaces places;
        };
        std::vector<Searched> searched;
        for (const auto& gap : gaps()) searched.push_back({gap, UsualPlaces(gap)});
        for (auto& [gap, places] : searched) {
            for (std::uint64_t i = 0; i < UsualPlaces::near_start; ++i) {
                if (const auto place = places.next()) look_at(*place, gap, true);
            }
        }
        std::stable_sort(searched.begin(), searched.end(),
                         [](const Searched& a, const Searched& b) { return a.gap.length > b.gap.length; });
        const RangeSet data(source_.data_ranges());
        std::uint64_t skipped = 0;
        for (auto& [gap, places] : searched) {
            while (const auto place = places.next()) {
                // A hole of a sparse file holds neither a head nor a copy of one.
                if (!data.touches({*place, mebibyte}) && ++skipped < most_skipped) continue;
                if (full() || looks_left_ == 0 || (looks_left_ % 16 == 0 && late())) {
                    out_.every_usual_place = false;
                    break;
                }
                --looks_left_;
                look_at(*place, gap, false);
            }
        }
        // A copy at the very end speaks for a volume that fills the rest of a gap, or its whole MiBs.
        for (const auto& gap : gaps()) {
            if (gap.length <= mebibyte) continue;
            const auto whole = gap.end() / mebibyte * mebibyte;
            at_copies(gap, gap) || (whole > gap.offset && at_copies({gap.offset, whole - gap.offset}, gap));
        }
    }

    bool late() const {
        return limits_.time.count() > 0 && std::chrono::steady_clock::now() - began_ > limits_.time;
    }

    bool is_taken(std::uint64_t place) const {
        return std::any_of(out_.volumes.begin(), out_.volumes.end(), [&](const Recognition& r) {
            return place >= r.volume.offset && place - r.volume.offset < r.volume.size;
        });
    }

    /// Looks for a volume that starts here, or has a copy of its head near. `near_start`: of the gap, where
    /// what is only known by its first bytes is believed, too. Volumes follow one another: after each found
    /// one the search goes on.
    void look_at(std::uint64_t place, const ByteRange& gap, bool near_start) {
        if (full() || place >= gap.end() || is_taken(place)) return;
        const auto room = gap.end() - place;
        if (!at_head(place) && !at_copies({place, std::min<std::uint64_t>(mebibyte, room)}, gap) &&
            !(near_start && at_other(place, room)))
            return;
        const auto& found = out_.volumes.back().volume;
        const auto end = found.offset + std::max<std::uint64_t>(found.size, 512);
        const auto aligned = (end + mebibyte - 1) / mebibyte * mebibyte;
        for (const auto next : {end, end + source_.sector_size(), end + track, aligned})
            look_at(next, gap, near_start);
    }

    SourceLayout finish() {
        std::sort(out_.volumes.begin(), out_.volumes.end(), [](const Recognition& a, const Recognition& b) {
            return a.volume.offset < b.volume.offset;
        });
        int number = 0;
        for (auto& r : out_.volumes) r.volume.number = ++number;
        return std::move(out_);
    }

    const Source& source_;
    const std::vector<const FileSystem*>& file_systems_;
    const ReadOptions& options_;
    SearchLimits limits_;
    std::size_t looks_left_;
    std::chrono::steady_clock::time_point began_ = std::chrono::steady_clock::now();
    SourceLayout out_;
    std::set<std::uint64_t> looked_;
};

}  // namespace

SourceLayout find_volumes(const Source& source, const std::vector<const FileSystem*>& file_systems,
                          const ReadOptions& options, const SearchLimits& limits) {
    return Search(source, file_systems, options, limits).run();
}

std::vector<Partition> SourceLayout::bare_partitions() const {
    std::vector<ByteRange> taken;
    for (const auto& r : volumes) taken.push_back({r.volume.offset, r.volume.size});
    const RangeSet used(std::move(taken));
    std::vector<Partition> out;
    if (!map) return out;
    for (const auto& p : map->partitions) {
        if (p.is_room() && !p.is_for_no_volume() && !used.touches({p.offset, p.size})) out.push_back(p);
    }
    return out;
}

}  // namespace undershelf
