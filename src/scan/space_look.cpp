#include "scan/space_look.hpp"

#include <algorithm>

#include "scan/sweep.hpp"
#include "systems/file_systems.hpp"
#include "unnamed/starts.hpp"

namespace undershelf {

namespace {

constexpr std::size_t most_reads = 512;
constexpr std::uint64_t small_block = 64 << 10, large_block = 256 << 10;
/// Up to here a source is read whole: it takes no longer than the places of a large one.
constexpr std::uint64_t small_source = most_reads * large_block;
/// A finder that looks at what came before sees so much of it.
constexpr std::uint64_t lead = 4096;

/// What nobody with a good claim has, and can be read.
RangeSet free_of(const Source& source, const FreeSpace& space) {
    const auto unreadable = source.unreadable();
    std::vector<ByteRange> out;
    for (const auto& data : source.data_ranges()) {
        for (const auto& gap : space.claimed().gaps_within(data)) {
            for (const auto& part : unreadable.gaps_within(gap)) out.push_back(part);
        }
    }
    return RangeSet(std::move(out));
}

/// Numbers of the blocks to read, ascending: all that have free space, or some, evenly spread over it.
std::vector<std::uint64_t> blocks_of(const RangeSet& free, std::uint64_t block, bool all) {
    std::vector<std::uint64_t> out;
    const auto add = [&](std::uint64_t number) {
        if (out.empty() || out.back() < number) out.push_back(number);
    };
    const auto step = std::max<std::uint64_t>(1, free.bytes() / most_reads);
    std::uint64_t passed = 0, next = step / 2;
    for (const auto& r : free.ranges()) {
        if (all) {
            for (auto n = r.offset / block; n <= (r.end() - 1) / block; ++n) add(n);
            continue;
        }
        for (; next < passed + r.length; next += step) add((r.offset + (next - passed)) / block);
        passed += r.length;
    }
    return out;
}

class TracesIn final : public TraceSink {
  public:
    TracesIn(const FreeSpace& space, const Grids& grids, SpaceLook& out)
        : space_(space), grids_(grids), out_(out) {}
    void trace(Trace&& trace) override {
        if (!space_.contains(trace.offset)) return;
        ++out_.traces;
        out_.traces_in_volumes += grids_.volume_at(trace.offset).has_value();
    }

  private:
    const FreeSpace& space_;
    const Grids& grids_;
    SpaceLook& out_;
};

bool is_of_one_byte(Bytes sector) {
    return std::all_of(sector.begin(), sector.end(), [&](std::uint8_t b) { return b == sector.front(); });
}

class Look {
  public:
    Look(const Source& source, const FreeSpace& space, const Grids& grids)
        : source_(source), space_(space), grids_(grids), free_(free_of(source, space)) {
        out_.bytes = free_.bytes();
    }

    const RangeSet& free() const { return free_; }
    void at(const ByteRange& block) {
        const auto before = std::min(lead, block.offset);
        ByteVector bytes(static_cast<std::size_t>(before + block.length) + sweep_margin);
        const RangeSet unread(source_.read(block.offset - before, bytes));
        const auto own = Bytes(bytes).subspan(static_cast<std::size_t>(before));
        if (!count_data(block, own, unread)) return;
        const auto starts =
            find_starts({bytes, block.offset - before, static_cast<std::size_t>(before + block.length)});
        out_.starts += static_cast<std::uint64_t>(
            std::count_if(starts.begin(), starts.end(), [&](const ContentStart& start) {
                return start.offset >= block.offset && space_.contains(start.offset) &&
                       grids_.stands(start.offset);
            }));
        TracesIn traces(space_, grids_, out_);
        for (const auto* fs : file_systems())
            fs->find_traces({own, block.offset, static_cast<std::size_t>(block.length)}, traces);
    }
    const SpaceLook& result() const { return out_; }

  private:
    /// Has the free space of the block any data?
    bool count_data(const ByteRange& block, Bytes own, const RangeSet& unread) {
        const auto before = out_.data;
        for (const auto& part : free_.within(block)) {
            out_.looked += part.length - total_length(unread.within(part));
            const auto data_before = out_.data;
            for (auto at = part.offset; at < part.end(); at += start_step) {
                const auto sector =
                    own.subspan(static_cast<std::size_t>(at - block.offset),
                                static_cast<std::size_t>(std::min(start_step, part.end() - at)));
                if (!is_of_one_byte(sector)) out_.data += sector.size();
            }
            if (grids_.volume_at(part.offset)) out_.data_in_volumes += out_.data - data_before;
        }
        return out_.data > before;
    }

    const Source& source_;
    const FreeSpace& space_;
    const Grids& grids_;
    const RangeSet free_;
    SpaceLook out_;
};

}  // namespace

std::optional<SpaceLook> look_at_space(const Source& source, const FreeSpace& space, const Grids& grids,
                                       Progress& progress) {
    progress.stage("looking at unclaimed space");
    Look look(source, space, grids);
    const bool all = source.size() <= small_source;
    const auto block = all ? large_block : small_block;
    const auto blocks = blocks_of(look.free(), block, all);
    for (std::size_t i = 0; i < blocks.size(); ++i) {
        if (progress.stopped()) return std::nullopt;
        const auto from = blocks[i] * block;
        look.at({from, std::min(block, source.size() - from)});
        progress.at(i + 1, blocks.size());
    }
    return look.result();
}

}  // namespace undershelf
