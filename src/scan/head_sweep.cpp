#include "scan/head_sweep.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <chrono>
#include <sstream>

#include "scan/file_systems.hpp"
#include "scan/sweep.hpp"

namespace undershelf {

namespace {
constexpr const char* setting = "sweep";
constexpr std::chrono::milliseconds between_saves{400};
}  // namespace

HeadSweep::HeadSweep(const Source& source, ShelfWriter& shelf) : source_(source), shelf_(shelf) {
    std::istringstream state(shelf.view().setting(setting));
    HeadTrace head;
    std::uint64_t left_out = 0;
    if (!(state >> swept_ >> settled_ >> left_out)) return;
    while (state >> head.offset >> head.print >> head.table) heads_.add(head);
    heads_.set_left_out(left_out);
}

void HeadSweep::write_state() {
    auto state = fmt::format("{} {:d} {}", swept_, settled_, heads_.left_out());
    for (const auto& h : heads_.heads()) state += fmt::format(" {} {} {:d}", h.offset, h.print, h.table);
    shelf_.set_setting(setting, state);
}

void HeadSweep::save() {
    write_state();
    shelf_.commit();
}

void HeadSweep::set_settled() {
    settled_ = true;
    write_state();
}

void HeadSweep::run(Progress& progress) {
    progress.stage("sweeping");
    progress.counts_bytes();
    progress.at(swept_, source_.size());
    auto saved = std::chrono::steady_clock::now();
    std::size_t saved_heads = heads_.heads().size();
    using Heads = std::vector<HeadTrace>;
    swept_ = sweep<Heads>(
        source_, swept_, [](const SweepBuffer& buffer) { return find_heads(buffer, file_systems()); },
        [&](Heads&& found, std::uint64_t swept) {
            for (const auto& h : found) heads_.add(h);
            swept_ = swept;
            progress.at(swept, source_.size());
            const auto now = std::chrono::steady_clock::now();
            // Many heads make a long state: then it is written the more rarely.
            if (now - saved >= between_saves * (1 + saved_heads / 1000)) {
                save();
                saved = now;
                saved_heads = heads_.heads().size();
            }
            return !progress.enough();
        });
    save();
}

LostVolumes HeadSweep::settle(const RangeSet& taken, int first_number, const ReadOptions& options,
                              const Progress& progress) const {
    auto out = volumes_at_heads(source_, file_systems(), heads_.heads(), taken, options, progress);
    std::sort(out.volumes.begin(), out.volumes.end(),
              [](const Recognition& a, const Recognition& b) { return a.volume.offset < b.volume.offset; });
    for (auto& r : out.volumes) r.volume.number = first_number++;
    if (heads_.left_out())
        out.remarks.push_back(fmt::format(
            "The source has {} more sectors that look like heads of volumes than are worth looking at; they "
            "were passed over.",
            heads_.left_out()));
    return out;
}

}  // namespace undershelf
