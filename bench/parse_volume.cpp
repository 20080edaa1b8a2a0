// Reads every entry of the volumes in an image without keeping them, and prints how long that took.
// usage: parse_volume IMAGE [RUNS]

#include <fmt/format.h>

#include <chrono>
#include <cstdlib>

#include "layout/find_volumes.hpp"
#include "systems/file_systems.hpp"

namespace {

class Counter final : public undershelf::EntrySink {
  public:
    using EntrySink::EntrySink;
    void entry(undershelf::Entry&& e) override {
        ++entries;
        bytes += e.size;
    }
    void evidence(const undershelf::EntryKey&, undershelf::Evidence&&) override {}
    void lay_anew(const undershelf::EntryKey&, undershelf::Relayout&&) override {}
    void in_use(const undershelf::ByteRange&) override {}
    void diagnostic(std::string sentence) override { fmt::print(stderr, "{}\n", sentence); }

    std::uint64_t entries = 0, bytes = 0;
};

}  // namespace

int main(int argc, char** argv) {
    using namespace undershelf;
    using Clock = std::chrono::steady_clock;
    if (argc < 2) return 2;
    const int runs = argc > 2 ? std::atoi(argv[2]) : 3;
    double best = 1e9;
    std::uint64_t entries = 0;
    for (int i = 0; i < runs; ++i) {
        const auto source = open_source(argv[1]);
        const auto layout = find_volumes(*source, file_systems());
        entries = 0;
        const auto began = Clock::now();
        for (const auto& r : layout.volumes) {
            Progress progress;
            const auto reader = file_system_of(r.volume)->open(*source, r.volume, NoTraces(), {});
            Counter counter(Budget::of(r.volume, source->size()));
            reader->read(counter, progress);
            reader->remnants(counter, progress);
            entries += counter.entries;
        }
        best = std::min(best, std::chrono::duration<double>(Clock::now() - began).count());
    }
    fmt::print("{:.3f} s for {} entries\n", best, entries);
}
