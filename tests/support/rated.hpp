#pragma once
// A lost file of a small source, rated among others.

#include <map>

#include "rating/rate.hpp"
#include "support/fat_image.hpp"
#include "support/memory_device.hpp"

namespace undershelf::test {

/// A source whose second KiB holds a text, and whose fifth holds a PNG's start.
inline ByteVector rated_bytes() {
    ByteVector out(16 << 10);
    const auto text = sample_text("Curtain", 1024);
    std::copy(text.begin(), text.end(), out.begin() + 1024);
    const char png[] = "\x89PNG\r\n\x1a\n";
    std::copy_n(png, 8, out.begin() + 4096);
    std::fill(out.begin() + 4104, out.begin() + 6144, 0x5A);
    // 100 bytes, then zeros up to the end of their sector.
    std::fill(out.begin() + 12288, out.begin() + 12388, 0x5A);
    std::fill(out.begin() + 12800, out.end(), 0x5A);
    return out;
}

inline Subject lost(std::uint64_t at, std::uint64_t size, const std::string& ext,
                    Layout layout = Layout::known) {
    Subject s;
    s.id = 1;
    s.volume = 1;
    s.identity = 1;
    s.origin = Origin::deleted;
    s.layout = layout;
    s.size = size;
    s.ext = ext;
    s.rank = 100;
    Piece p;
    p.known = layout == Layout::known;
    p.source = at;
    p.length = size;
    s.pieces = {p};
    return s;
}

inline constexpr Standing live{Hold::live, 0, live_rank};
inline Standing written(ClaimRank rank) {
    return {Hold::recorded, 0, rank};
}

/// A volume of the whole source in clusters of 512 bytes, whose dates are as fine as ticks.
inline const std::map<int, VolumeTraits> rated_volumes{{1, {16 << 10, 512, 0}}};

/// What there is besides a subject.
struct Others {
    std::vector<ByteVector> lost_starts = {};  ///< of other lost files
    std::vector<Claim> claims = {};
    RangeSet bad = {};
    std::vector<Claimant> claimants = {};
    std::unordered_map<std::uint64_t, std::int64_t> in_turns = {};
    std::vector<ByteVector> siblings = {};          ///< first bytes of live files of the subject's extension
    std::vector<std::optional<FileEnd>> ends = {};  ///< of such files
    WholeFinds whole_finds = {};
    EarlyEnds early_ends = {};
    std::unordered_map<std::uint64_t, std::int64_t> foreign_starts = {};
};

inline Rating rate(Subject& s, Others others) {
    const auto source = memory_source(rated_bytes(), std::move(others.bad));
    ByteVector all(16 << 10);
    source->read(0, all);  // so that bad ranges are known
    Claimant own;
    own.id = s.id;
    own.volume = s.volume;
    own.identity = s.identity;
    own.origin = s.origin;
    own.layout = s.layout;
    own.rank = s.rank;
    if (!s.pieces.empty()) own.ranges = {s.pieces[0].source_range()};
    append_claims(own, rated_volumes.at(1), others.claims);
    const ClaimMap claims(std::move(others.claims));
    LaterUse later_use(rated_volumes);
    KindHabits kinds;
    for (const auto& c : others.claimants) {
        later_use.add(c);
        kinds.add(c, rated_volumes.at(1));
    }
    later_use.settle();
    Siblings siblings([&](std::int64_t id) { return others.siblings[static_cast<std::size_t>(id)]; });
    for (std::size_t i = 0; i < others.siblings.size(); ++i)
        siblings.add(s.volume, s.ext, static_cast<std::int64_t>(i));
    SlackHabits slack([&](std::int64_t id) { return others.ends[static_cast<std::size_t>(id)]; });
    for (std::size_t i = 0; i < others.ends.size(); ++i)
        slack.add(s.volume, s.ext, static_cast<std::int64_t>(i));
    Emptied emptied([&](std::int64_t id) { return others.lost_starts[static_cast<std::size_t>(id)]; });
    for (std::size_t i = 0; i < others.lost_starts.size(); ++i)
        emptied.add(s.volume, static_cast<std::int64_t>(i));
    return Rater(*source, {claims, rated_volumes, later_use, kinds, others.in_turns, siblings, emptied, slack,
                           others.whole_finds, others.early_ends, others.foreign_starts})
        .rate(s);
}

inline Rating rate(Subject& s, std::vector<Claim> others = {}) {
    return rate(s, Others{.claims = std::move(others)});
}

inline const Evidence* find(const Subject& s, Fact fact) {
    for (const auto& e : s.evidence) {
        if (e.fact == fact) return &e;
    }
    return nullptr;
}

}  // namespace undershelf::test
