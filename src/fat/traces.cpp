#include "fat/traces.hpp"

#include <algorithm>
#include <unordered_map>

#include "fat/directory.hpp"

namespace undershelf::fat {

void find_traces(const SweepBuffer& buffer, TraceSink& sink) {
    for (std::size_t at = (512 - buffer.offset % 512) % 512;
         at < buffer.owned && at + 2 * slot_size <= buffer.bytes.size(); at += 512) {
        if (buffer.bytes[at] != '.') continue;
        const auto head = buffer.bytes.subspan(at, 2 * slot_size);
        if (!begins_with_dots(head)) continue;
        const auto own = start_cluster(*load<DirEntry>(head), Width::fat32);
        if (own < 2) continue;
        sink.trace({folder_trace, buffer.offset + at, own,
                    start_cluster(*load<DirEntry>(head, slot_size), Width::fat32)});
    }
}

namespace {

struct Vote {
    std::int64_t data_start = 0;
    std::uint64_t cluster_size = 0;
    std::size_t votes = 0;
};

constexpr std::uint64_t largest_cluster = 256 << 10;
constexpr std::size_t fewest_votes = 3;

/// The pair most traces agree on; a tie goes to no one, as chance alignment ties too.
Vote best_vote(const std::vector<Trace>& traces) {
    Vote best;
    std::size_t next_best = 0;
    for (std::uint64_t size = 512; size <= largest_cluster; size *= 2) {
        std::unordered_map<std::int64_t, std::size_t> votes;
        for (const auto& t : traces) {
            const auto start =
                static_cast<std::int64_t>(t.offset) - static_cast<std::int64_t>((t.a - 2) * size);
            if (start >= 0) ++votes[start];
        }
        for (const auto& [start, n] : votes) {
            if (n > best.votes) {
                next_best = best.votes;
                best = {start, size, n};
            } else {
                next_best = std::max(next_best, n);
            }
        }
    }
    return best.votes > next_best ? best : Vote{};
}

bool supports(const Trace& t, const Vote& vote) {
    return static_cast<std::int64_t>(t.offset) ==
           vote.data_start + static_cast<std::int64_t>((t.a - 2) * vote.cluster_size);
}

}  // namespace

std::vector<Recognition> settle(const Source& source, const std::vector<Trace>& all) {
    std::vector<Trace> traces;
    std::copy_if(all.begin(), all.end(), std::back_inserter(traces),
                 [](const Trace& t) { return t.kind == folder_trace; });
    std::vector<Recognition> out;
    while (traces.size() >= fewest_votes) {
        const auto vote = best_vote(traces);
        if (vote.votes < fewest_votes) break;
        Recognition r;
        r.volume.family = "FAT";
        r.volume.file_system = "FAT32";
        r.volume.offset = static_cast<std::uint64_t>(vote.data_start);
        r.volume.cluster_size = static_cast<std::uint32_t>(vote.cluster_size);
        r.volume.state = VolumeState::former;
        r.volume.found_by = "folders that agree on its geometry";
        std::uint64_t first = ~0ull, last = 0, inside = 0;
        for (const auto& t : traces) {
            if (!supports(t, vote)) continue;
            first = std::min(first, t.offset);
            last = std::max(last, t.offset + vote.cluster_size);
        }
        for (const auto& t : traces) inside += t.offset >= first && t.offset < last;
        r.volume.size = std::min(last, source.size()) - r.volume.offset;
        r.volume.support = static_cast<double>(vote.votes) / static_cast<double>(inside);
        std::erase_if(traces, [&](const Trace& t) { return supports(t, vote); });
        out.push_back(std::move(r));
    }
    return out;
}

}  // namespace undershelf::fat
