#pragma once
// Work on numbered things by all cores, handed over in the order of their numbers.

#include <tbb/parallel_pipeline.h>

#include <algorithm>
#include <cstdint>
#include <functional>
#include <utility>

namespace undershelf {

/// Cuts the numbers from 0 to `total` into batches of `size`. `parse(from, to)` makes a Batch of each,
/// several at a time; `hand_over(Batch, to)` takes them one after the other in their order. Ends early once
/// `stopped` says so.
template <class Batch, class Parse, class HandOver>
void in_ordered_batches(std::uint64_t total, std::uint64_t size, const std::function<bool()>& stopped,
                        const Parse& parse, const HandOver& hand_over) {
    constexpr std::size_t under_way = 8;
    struct Part {
        std::uint64_t from = 0, to = 0;
        Batch batch{};
    };
    std::uint64_t next = 0;
    const auto cut = [&](tbb::flow_control& flow) {
        Part part;
        if (next >= total || stopped()) {
            flow.stop();
            return part;
        }
        part.from = next;
        part.to = next = std::min(next + size, total);
        return part;
    };
    const auto work = [&](Part part) {
        part.batch = parse(part.from, part.to);
        return part;
    };
    const auto finish = [&](Part part) { hand_over(std::move(part.batch), part.to); };
    tbb::parallel_pipeline(under_way,
                           tbb::make_filter<void, Part>(tbb::filter_mode::serial_in_order, cut) &
                               tbb::make_filter<Part, Part>(tbb::filter_mode::parallel, work) &
                               tbb::make_filter<Part, void>(tbb::filter_mode::serial_in_order, finish));
}

}  // namespace undershelf
