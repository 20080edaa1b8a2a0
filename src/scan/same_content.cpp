#include "scan/same_content.hpp"

#include <map>

#include "base/sha256.hpp"
#include "volume/content_stream.hpp"

namespace undershelf {

namespace {

/// At most this much is read for comparing, or a few times the source; groups after that stay uncompared.
constexpr std::uint64_t most_bytes = 4ull << 30, most_times = 4;
constexpr std::size_t head_bytes = 4096;
constexpr std::size_t chunk = 1 << 20;

struct Candidate {
    std::int64_t id;
    bool live, named;
    std::uint64_t size;
};

/// SHA-256 of the first `most` bytes; empty when any of them is missing, or the work should end.
std::string hash_of(const Source& source, const Shelf& shelf, const Candidate& c, std::uint64_t most,
                    const Progress& progress) {
    ContentStream stream(source, shelf.pieces(c.id), c.size);
    Sha256 hash;
    ByteVector bytes;
    const auto end = std::min(most, c.size);
    for (std::uint64_t at = 0; at < end; at += chunk) {
        bytes.resize(static_cast<std::size_t>(std::min<std::uint64_t>(chunk, end - at)));
        if (progress.stopped() || !stream.read(at, bytes).empty()) return {};
        hash.add(bytes);
    }
    return hash.hex();
}

using Groups = std::map<std::string, std::vector<Candidate>>;

Groups split(const Source& source, const Shelf& shelf, const std::vector<Candidate>& group,
             std::uint64_t most, const Progress& progress) {
    Groups out;
    for (const auto& c : group) {
        if (auto hash = hash_of(source, shelf, c, most, progress); !hash.empty()) out[hash].push_back(c);
    }
    return out;
}

bool worth_comparing(const std::vector<Candidate>& group) {
    // Of what nothing names only those are of interest that somebody has under a name.
    return group.size() > 1 &&
           std::any_of(group.begin(), group.end(), [](const Candidate& c) { return !c.live; }) &&
           std::any_of(group.begin(), group.end(), [](const Candidate& c) { return c.named; });
}

/// Files by size, where one of the size is lost.
std::map<std::uint64_t, std::vector<Candidate>> by_size(const Shelf& shelf) {
    std::map<std::uint64_t, std::vector<Candidate>> out;
    const auto usable = [](const ShelfEntry& e) {
        return !e.is_dir && !e.link && e.size > 0 && e.layout != Layout::none &&
               e.rating.grade >= Grade::doubtful;
    };
    Selection lost;
    lost.no_live = true;
    shelf.for_each(lost, {}, [&](const ShelfEntry& e) {
        if (usable(e)) out[e.size].push_back({e.id, false, e.origin != Origin::unnamed, e.size});
        return true;
    });
    if (out.empty()) return out;
    Selection live;
    live.origins = {Origin::live};
    shelf.for_each(live, {}, [&](const ShelfEntry& e) {
        const auto it = out.find(e.size);
        if (it != out.end() && usable(e)) it->second.push_back({e.id, true, true, e.size});
        return true;
    });
    return out;
}

}  // namespace

void find_same_content(const Source& source, ShelfWriter& shelf, Progress& progress) {
    progress.stage("comparing contents");
    shelf.clear_same_content();
    shelf.commit();
    const auto view = shelf.view();
    const auto groups = by_size(view);
    const auto most = std::min(most_bytes, most_times * source.size());
    std::uint64_t done = 0, read = 0;
    for (const auto& [size, group] : groups) {
        if (progress.stopped()) break;
        progress.at(++done, groups.size());
        if (!worth_comparing(group) || read > most) continue;
        read += group.size() * std::min<std::uint64_t>(size, head_bytes);
        for (const auto& [head, alike] : split(source, view, group, head_bytes, progress)) {
            if (!worth_comparing(alike)) continue;
            if (size > head_bytes && size > (most - std::min(most, read)) / alike.size()) continue;
            if (size > head_bytes) read += alike.size() * size;
            for (const auto& [whole, same] :
                 size > head_bytes ? split(source, view, alike, size, progress) : Groups{{head, alike}}) {
                if (!worth_comparing(same)) continue;
                std::vector<std::pair<std::int64_t, bool>> rows;
                for (const auto& c : same) rows.emplace_back(c.id, c.live);
                shelf.add_same_content(rows);
            }
        }
    }
    shelf.commit();
}

}  // namespace undershelf
