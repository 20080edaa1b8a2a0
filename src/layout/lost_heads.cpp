#include "layout/lost_heads.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <map>

#include "base/print.hpp"

namespace undershelf {

namespace {

constexpr std::size_t sector = 512;
/// So many heads are kept, and so many of the same bytes: a volume has its head three times at most, and once
/// more in each image of it.
constexpr std::size_t most_heads = 1 << 16;
constexpr unsigned most_alike = 64;
/// Less than this share of what a head points to is in place where a volume was formatted over.
constexpr double least_support = 0.6;
constexpr std::size_t most_remarks = 16;
constexpr std::size_t most_volumes = 256;
constexpr std::size_t most_pairs = 1024;

ByteRange range_of(const Volume& v) {
    return {v.offset, std::max<std::uint64_t>(v.size, sector)};
}

/// Larger first among equals: an image stored in a volume is a volume as well supported as the one around it.
bool better(const Recognition& a, const Recognition& b) {
    if (a.volume.support != b.volume.support) return a.volume.support > b.volume.support;
    if (a.volume.size != b.volume.size) return a.volume.size > b.volume.size;
    return a.volume.offset < b.volume.offset;
}

class Candidates {
  public:
    Candidates(const Source& source, const RangeSet& taken) : source_(source), taken_(taken) {}

    void add(Recognition&& r) {
        const auto& v = r.volume;
        if (v.support < least_support || v.offset >= source_.size() || taken_.touches(range_of(v))) return;
        const auto [it, fresh] = best_.try_emplace({v.family, v.offset}, r);
        if (!fresh && better(r, it->second)) it->second = std::move(r);
    }

    /// Does a place belong to a volume that a head speaks for?
    bool covers(std::uint64_t place) const {
        return std::any_of(best_.begin(), best_.end(),
                           [&](const auto& entry) { return range_of(entry.second.volume).contains(place); });
    }

    /// The best ones that do not overlap.
    LostVolumes choose() {
        std::vector<Recognition*> order;
        for (auto& [key, r] : best_) order.push_back(&r);
        std::sort(order.begin(), order.end(),
                  [](const Recognition* a, const Recognition* b) { return better(*a, *b); });
        LostVolumes out;
        for (auto* r : order) {
            const auto range = range_of(r->volume);
            const auto other = std::find_if(
                out.volumes.begin(), out.volumes.end(),
                [&](const Recognition& x) { return overlap(range_of(x.volume), range).has_value(); });
            if (other == out.volumes.end() && out.volumes.size() < most_volumes) {
                out.volumes.push_back(std::move(*r));
            } else if (other != out.volumes.end() && out.remarks.size() < most_remarks) {
                const auto& better = other->volume;
                out.remarks.push_back(fmt::format(
                    "A {} volume at offset {} lies in the {} volume at {}, which is larger or better "
                    "supported, and is passed over.",
                    r->volume.file_system, r->volume.offset, better.file_system, better.offset));
            }
        }
        return out;
    }

  private:
    const Source& source_;
    const RangeSet& taken_;
    std::map<std::pair<std::string, std::uint64_t>, Recognition> best_;
};

/// Beginnings of tables that hold the same bytes, each with the next one: a table and its copy.
std::vector<std::pair<std::uint64_t, std::uint64_t>> pairs_of_tables(const std::vector<HeadTrace>& heads) {
    std::map<std::uint64_t, std::uint64_t> last;
    std::vector<std::pair<std::uint64_t, std::uint64_t>> out;
    for (const auto& h : heads) {
        if (!h.table) continue;
        const auto [it, fresh] = last.try_emplace(h.print, h.offset);
        if (!fresh && out.size() < most_pairs) out.emplace_back(it->second, h.offset);
        it->second = h.offset;
    }
    return out;
}

}  // namespace

std::vector<HeadTrace> find_heads(const SweepBuffer& buffer,
                                  const std::vector<const FileSystem*>& file_systems) {
    std::vector<HeadTrace> out;
    for (std::size_t at = 0; at < buffer.owned && at + sector <= buffer.bytes.size(); at += sector) {
        const auto bytes = buffer.bytes.subspan(at, sector);
        const bool may_be = std::any_of(file_systems.begin(), file_systems.end(),
                                        [&](const FileSystem* fs) { return fs->may_be_head(bytes); });
        const bool table =
            !may_be && std::any_of(file_systems.begin(), file_systems.end(),
                                   [&](const FileSystem* fs) { return fs->may_be_table(bytes); });
        if (may_be || table) out.push_back({buffer.offset + at, Print().add(bytes).value(), table});
    }
    return out;
}

bool HeadList::add(const HeadTrace& head) {
    if (heads_.size() >= most_heads || ++alike_[head.print] > most_alike) {
        ++left_out_;
        return false;
    }
    heads_.push_back(head);
    return true;
}

LostVolumes volumes_at_heads(const Source& source, const std::vector<const FileSystem*>& file_systems,
                             const std::vector<HeadTrace>& heads, const RangeSet& taken,
                             const ReadOptions& options, const Progress& progress) {
    Candidates candidates(source, taken);
    for (const auto& head : heads) {
        if (progress.stopped()) break;
        if (taken.contains(head.offset) || head.table) continue;
        for (const auto* fs : file_systems) {
            if (head.offset >= fs->head_distance()) {
                if (auto r = fs->recognise(source, head.offset - fs->head_distance(), options))
                    candidates.add(std::move(*r));
            }
            for (auto& r : fs->recognise_copy(source, head.offset, options)) candidates.add(std::move(r));
        }
    }
    for (const auto& [first, second] : pairs_of_tables(heads)) {
        if (progress.stopped()) break;
        if (taken.contains(first) || candidates.covers(first)) continue;
        for (const auto* fs : file_systems) {
            if (auto r = fs->recognise_tables(source, first, second, options)) candidates.add(std::move(*r));
        }
    }
    return candidates.choose();
}

}  // namespace undershelf
