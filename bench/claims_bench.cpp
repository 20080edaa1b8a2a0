// Rating with many claims: building the claim map, and asking it for every lost file.

#include <benchmark/benchmark.h>

#include <random>

#include "rating/claim_map.hpp"

namespace {

using namespace undershelf;

/// Claims as on a busy volume: mostly live files side by side, a fifth lost ones that overlap them and one
/// another.
std::vector<Claim> busy_volume(std::size_t count) {
    std::mt19937_64 random(1);
    std::vector<Claim> out;
    std::uint64_t at = 0;
    for (std::size_t i = 1; i <= count; ++i) {
        const std::uint64_t length = 4096 * (1 + random() % 64);
        const bool lost = i % 5 == 0;
        const auto start = lost ? random() % (at + 1) / 4096 * 4096 : at;
        if (!lost) at += length + 4096 * (random() % 4);
        out.push_back({{start, length},
                       i,
                       static_cast<std::int64_t>(i),
                       {lost ? Hold::recorded : Hold::live, 0,
                        lost ? static_cast<ClaimRank>(random() % 1'000'000) : live_rank}});
    }
    return out;
}

void BuildAndAsk(benchmark::State& state) {
    const auto claims = busy_volume(static_cast<std::size_t>(state.range(0)));
    for (auto _ : state) {
        const ClaimMap map(claims);
        std::uint64_t lost = 0;
        for (const auto& c : claims) {
            if (c.standing.hold == Hold::live) continue;
            for (const auto& loss : map.losses(c.range, c.identity, c.standing)) lost += loss.range.length;
        }
        benchmark::DoNotOptimize(lost);
    }
    state.counters["claims/s"] = benchmark::Counter(static_cast<double>(state.range(0)),
                                                    benchmark::Counter::kIsIterationInvariantRate);
}
BENCHMARK(BuildAndAsk)->Arg(100'000)->Arg(1'000'000)->Arg(4'000'000)->Unit(benchmark::kMillisecond);

}  // namespace
