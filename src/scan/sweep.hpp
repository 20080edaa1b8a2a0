#pragma once
// One pass over a whole source: blocks are read in order, looked through by all cores, and what is found
// comes back in order. Holes of sparse files are skipped, since they read as zeros.

#include <mutex>
#include <vector>

#include "base/batches.hpp"
#include "source/source.hpp"
#include "volume/file_system.hpp"

namespace undershelf {

/// Bytes after its own that a buffer shows.
constexpr std::size_t sweep_margin = 64 << 10;

/// Stretches of a source, ascending, block by block.
class SweepBlocks {
  public:
    SweepBlocks(const std::vector<ByteRange>& ranges, std::uint64_t from);
    /// The next block; empty at the end.
    ByteRange next();

  private:
    std::vector<ByteRange> ranges_;
    std::size_t range_ = 0;
    std::uint64_t at_;
};

/// Buffers that were used before: getting and clearing memory for every block costs as much as looking
/// through it.
class SpareBuffers {
  public:
    /// One of this size, with anything in it.
    ByteVector take(std::size_t size) {
        ByteVector out;
        {
            const std::lock_guard lock(mutex_);
            if (!spare_.empty()) {
                out = std::move(spare_.back());
                spare_.pop_back();
            }
        }
        out.resize(size);
        return out;
    }
    void give_back(ByteVector&& buffer) {
        const std::lock_guard lock(mutex_);
        spare_.push_back(std::move(buffer));
    }

  private:
    std::mutex mutex_;
    std::vector<ByteVector> spare_;
};

/// Sweeps `ranges`, ascending, from `from` on. `find(SweepBuffer)` gets every buffer, from many threads at
/// once, and returns its Finds; `found(Finds, swept)` takes these in the order of the source, with the place
/// up to which all is swept, and ends the sweep by saying false. Returns how far it came, the source's size
/// when it came to the end. Takes about 40 MiB whatever the source's size.
template <class Finds, class Find, class Found>
std::uint64_t sweep(const Source& source, const std::vector<ByteRange>& ranges, std::uint64_t from,
                    const Find& find, const Found& found) {
    struct Block {
        ByteRange range;
        ByteVector bytes;
        Finds finds;
    };
    SweepBlocks blocks(ranges, from);
    SpareBuffers buffers;
    auto swept = from;
    bool ended = false;
    in_order<Block>(
        [&](Block& block) {
            block.range = ended ? ByteRange{} : blocks.next();
            if (block.range.empty()) return false;
            block.bytes = buffers.take(static_cast<std::size_t>(block.range.length) + sweep_margin);
            source.read(block.range.offset, block.bytes);
            return true;
        },
        [&](Block& block) {
            block.finds = find(
                SweepBuffer{block.bytes, block.range.offset, static_cast<std::size_t>(block.range.length)});
            buffers.give_back(std::move(block.bytes));
        },
        [&](Block&& block) {
            if (ended) return;
            swept = block.range.end();
            ended = !found(std::move(block.finds), swept);
        });
    return ended ? swept : source.size();
}

}  // namespace undershelf
