#pragma once
// Work by all cores on things that come in an order, handed over in that order.

#include <tbb/parallel_pipeline.h>

#include <algorithm>
#include <cstdint>
#include <functional>
#include <utility>

namespace undershelf {

/// `next(Item&)` fills one item after the other and says false at the end; `work(Item&)` is done on several
/// of them at a time; `hand_over(Item&&)` takes them one after the other in their order. A few exist at a
/// time.
template <class Item, class Next, class Work, class HandOver>
void in_order(const Next& next, const Work& work, const HandOver& hand_over) {
    constexpr std::size_t under_way = 8;
    const auto cut = [&](tbb::flow_control& flow) {
        Item item{};
        if (!next(item)) flow.stop();
        return item;
    };
    const auto do_work = [&](Item item) {
        work(item);
        return item;
    };
    const auto finish = [&](Item item) { hand_over(std::move(item)); };
    tbb::parallel_pipeline(under_way,
                           tbb::make_filter<void, Item>(tbb::filter_mode::serial_in_order, cut) &
                               tbb::make_filter<Item, Item>(tbb::filter_mode::parallel, do_work) &
                               tbb::make_filter<Item, void>(tbb::filter_mode::serial_in_order, finish));
}

/// Cuts the numbers from 0 to `total` into batches of `size`. `parse(from, to)` makes a Batch of each,
/// several at a time; `hand_over(Batch, to)` takes them one after the other in their order. Ends early once
/// `stopped` says so.
template <class Batch, class Parse, class HandOver>
void in_ordered_batches(std::uint64_t total, std::uint64_t size, const std::function<bool()>& stopped,
                        const Parse& parse, const HandOver& hand_over) {
    struct Part {
        std::uint64_t from = 0, to = 0;
        Batch batch{};
    };
    std::uint64_t next = 0;
    in_order<Part>(
        [&](Part& part) {
            if (next >= total || stopped()) return false;
            part.from = next;
            part.to = next = std::min(next + size, total);
            return true;
        },
        [&](Part& part) { part.batch = parse(part.from, part.to); },
        [&](Part&& part) { hand_over(std::move(part.batch), part.to); });
}

}  // namespace undershelf
