#include "scan/source_sweep.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <chrono>

#include "base/text.hpp"
#include "scan/file_systems.hpp"
#include "scan/sweep.hpp"

namespace undershelf {

namespace {

constexpr std::chrono::milliseconds between_saves{400};
/// Heads are kept like traces, of no family.
const std::string no_family;
constexpr std::uint32_t head_kind = 1, table_kind = 2;

class Collector final : public TraceSink {
  public:
    explicit Collector(std::vector<Trace>& out) : out_(out) {}
    void trace(Trace&& trace) override { out_.push_back(std::move(trace)); }

  private:
    std::vector<Trace>& out_;
};

}  // namespace

/// What one block of the source has: heads, and the traces of each file system.
struct SourceSweep::Finds {
    std::vector<HeadTrace> heads;
    std::vector<std::vector<Trace>> traces;
};

SourceSweep::SourceSweep(const Source& source, ShelfWriter& shelf)
    : source_(source), shelf_(shelf), checkpoint_(shelf.checkpoint()) {
    if (checkpoint_.swept) take_up(complete());
    limits_.set_left_out(checkpoint_.left_out);
}

/// What the shelf has of an earlier sweep; of a complete one the heads alone.
void SourceSweep::take_up(bool heads_alone) {
    const RangeSet nothing;
    heads_ = {};
    limits_ = {};
    std::vector<HeadTrace> heads;
    for (const auto kind : {head_kind, table_kind}) {
        shelf_.traces(no_family, nothing)->visit_all(kind, [&](const Trace& t) {
            heads.push_back({t.offset, t.a, kind == table_kind});
            return true;
        });
    }
    std::sort(heads.begin(), heads.end(),
              [](const HeadTrace& a, const HeadTrace& b) { return a.offset < b.offset; });
    for (const auto& h : heads) heads_.add(h);
    if (const auto it = checkpoint_.left_out.find({no_family, head_kind}); it != checkpoint_.left_out.end())
        heads_.set_left_out(it->second);
    if (heads_alone) return;
    for (const auto* fs : file_systems()) {
        const std::string family(fs->family());
        for (std::uint32_t kind = 1; kind <= most_trace_kinds; ++kind)
            shelf_.traces(family, nothing)->visit_all(kind, [&](const Trace& t) {
                limits_.count(family, t);
                return true;
            });
    }
}

void SourceSweep::save() {
    checkpoint_.left_out = limits_.left_out();
    if (heads_.left_out()) checkpoint_.left_out[{no_family, head_kind}] = heads_.left_out();
    shelf_.set_checkpoint(checkpoint_);
    shelf_.commit();
}

void SourceSweep::set_settled() {
    checkpoint_.settled = true;
    save();
}

void SourceSweep::take(Finds&& finds) {
    std::vector<Trace> heads;
    for (const auto& h : finds.heads) {
        if (heads_.add(h)) heads.push_back({h.table ? table_kind : head_kind, h.offset, h.print, 0, {}});
    }
    shelf_.add_traces(no_family, heads);
    for (std::size_t i = 0; i < finds.traces.size(); ++i) {
        const auto* fs = file_systems()[i];
        const std::string family(fs->family());
        std::erase_if(finds.traces[i], [&](const Trace& t) {
            return live_.contains(t.offset) || held_[i].contains(t.offset) || !limits_.admit(family, t);
        });
        shelf_.add_traces(family, finds.traces[i]);
    }
}

void SourceSweep::run(Progress& progress) {
    sweep_ranges(source_.data_ranges(), checkpoint_.swept, progress,
                 [&](std::uint64_t swept) { checkpoint_.swept = swept; });
    save();
}

void SourceSweep::run_again(const RangeSet& ranges, Progress& progress) {
    std::vector<ByteRange> around;
    for (const auto& r : ranges.within({0, checkpoint_.swept})) {
        // What began before may have been cut off.
        const auto from = r.offset - std::min<std::uint64_t>(r.offset, sweep_margin);
        around.push_back({from, r.end() - from});
    }
    if (around.empty()) return;
    const RangeSet wanted(std::move(around));
    // All that stands there is found again.
    shelf_.drop_traces(wanted);
    take_up(false);
    limits_.set_left_out(checkpoint_.left_out);
    checkpoint_.settled = false;
    std::vector<ByteRange> data;
    for (const auto& r : source_.data_ranges()) {
        for (const auto& part : wanted.within(r)) data.push_back(part);
    }
    sweep_ranges(data, 0, progress, [](std::uint64_t) {});
    take_up(complete());
    limits_.set_left_out(checkpoint_.left_out);
    save();
}

void SourceSweep::sweep_ranges(const std::vector<ByteRange>& ranges, std::uint64_t from, Progress& progress,
                               const std::function<void(std::uint64_t)>& reached) {
    progress.stage("sweeping");
    progress.counts_bytes();
    progress.at(from, source_.size());
    live_ = shelf_.live_ranges();
    held_.clear();
    for (const auto* fs : file_systems())
        held_.push_back(fs->accounts_for_its_space() ? shelf_.held_by(fs->family()) : RangeSet());
    auto saved = std::chrono::steady_clock::now();
    const auto find = [](const SweepBuffer& buffer) {
        Finds out;
        out.heads = find_heads(buffer, file_systems());
        for (const auto* fs : file_systems()) {
            Collector collector(out.traces.emplace_back());
            fs->find_traces(buffer, collector);
        }
        return out;
    };
    reached(sweep<Finds>(source_, ranges, from, find, [&](Finds&& finds, std::uint64_t swept) {
        take(std::move(finds));
        reached(swept);
        progress.traces(limits_.kept());
        progress.at(swept, source_.size());
        if (const auto now = std::chrono::steady_clock::now(); now - saved >= between_saves) {
            save();
            saved = std::chrono::steady_clock::now();
        }
        return !progress.enough();
    }));
}

LostVolumes SourceSweep::volumes_at_heads(const RangeSet& taken, int first_number, const ReadOptions& options,
                                          const Progress& progress) const {
    auto out =
        undershelf::volumes_at_heads(source_, file_systems(), heads_.heads(), taken, options, progress);
    std::sort(out.volumes.begin(), out.volumes.end(),
              [](const Recognition& a, const Recognition& b) { return a.volume.offset < b.volume.offset; });
    for (auto& r : out.volumes) r.volume.number = first_number++;
    return out;
}

std::vector<std::string> SourceSweep::remarks() const {
    std::vector<std::string> out;
    if (heads_.left_out())
        out.push_back(fmt::format(
            "The source has {} more sectors that look like heads of volumes than are worth looking at; they "
            "were passed over.",
            grouped(heads_.left_out())));
    std::map<std::string, std::uint64_t> by_family;
    for (const auto& [kind, traces] : limits_.left_out()) by_family[kind.first] += traces;
    for (const auto& [family, traces] : by_family) {
        if (!family.empty())
            out.push_back(fmt::format(
                "The source has {} more pieces of what may be {} folders and tables than are worth keeping, "
                "most of them alike; they were passed over.",
                grouped(traces), family));
    }
    return out;
}

}  // namespace undershelf
