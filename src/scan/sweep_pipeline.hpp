#pragma once
// The template of sweep.hpp.

#include <oneapi/tbb/parallel_pipeline.h>

#include <algorithm>
#include <memory>

namespace undershelf {

/// Hands out the stretches of a source that hold data, block by block.
class SweepBlocks {
  public:
    SweepBlocks(const Source& source, std::uint64_t from);
    /// The next block; empty at the end.
    ByteRange next();

  private:
    std::vector<ByteRange> ranges_;
    std::size_t range_ = 0;
    std::uint64_t at_;
};

template <class Finds>
std::uint64_t sweep(const Source& source, std::uint64_t from,
                    const std::function<Finds(const SweepBuffer&)>& find,
                    const std::function<bool(Finds&&, std::uint64_t)>& found) {
    struct Block {
        ByteRange range;
        ByteVector bytes;
        Finds finds;
    };
    using Item = std::shared_ptr<Block>;
    constexpr std::size_t at_once = 8;
    SweepBlocks blocks(source, from);
    auto swept = from;
    bool ended = false;
    namespace tbb = oneapi::tbb;
    tbb::parallel_pipeline(
        at_once,
        tbb::make_filter<void,
                         Item>(tbb::filter_mode::serial_in_order, [&](tbb::flow_control& control) -> Item {
            const auto range = ended ? ByteRange{} : blocks.next();
            if (range.empty()) {
                control.stop();
                return nullptr;
            }
            auto block = std::make_shared<Block>();
            block->range = range;
            block->bytes.resize(static_cast<std::size_t>(range.length) + sweep_margin);
            source.read(range.offset, block->bytes);
            return block;
        }) & tbb::make_filter<Item, Item>(tbb::filter_mode::parallel, [&](Item block) {
            block->finds =
                find({block->bytes, block->range.offset, static_cast<std::size_t>(block->range.length)});
            block->bytes = {};
            return block;
        }) & tbb::make_filter<Item, void>(tbb::filter_mode::serial_in_order, [&](const Item& block) {
            if (ended) return;
            swept = block->range.end();
            ended = !found(std::move(block->finds), swept);
        }));
    return ended ? swept : source.size();
}

}  // namespace undershelf
