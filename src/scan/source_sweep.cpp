#include "scan/source_sweep.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <chrono>

#include "base/text.hpp"
#include "scan/content_starts.hpp"
#include "scan/sweep.hpp"
#include "systems/file_systems.hpp"

namespace undershelf {

namespace {

constexpr std::chrono::milliseconds between_saves{400};
/// Heads are kept like traces, of no family.
const std::string no_family;
constexpr std::uint32_t head_kind = 1, table_kind = 2;
/// The shelf's setting: up to where starts of contents were looked for.

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
    std::vector<ContentStart> starts;
};

SourceSweep::SourceSweep(const Source& source, ShelfWriter& shelf)
    : source_(source), shelf_(shelf), checkpoint_(shelf.checkpoint()), starts_to_(shelf.state().starts_to) {
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
    for (std::uint32_t kind = 1; kind <= most_trace_kinds; ++kind)
        shelf_.traces(contents_family, nothing)->visit_all(kind, [&](const Trace& t) {
            limits_.count(contents_family, t);
            return true;
        });
}

void SourceSweep::save() {
    checkpoint_.left_out = limits_.left_out();
    if (heads_.left_out()) checkpoint_.left_out[{no_family, head_kind}] = heads_.left_out();
    shelf_.set_checkpoint(checkpoint_);
    shelf_.change_state([&](ScanState& state) { state.starts_to = starts_to_; });
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
    auto starts = as_traces(finds.starts);
    std::erase_if(starts, [&](const Trace& t) {
        return live_.contains(t.offset) || !limits_.admit(contents_family, t);
    });
    shelf_.add_traces(contents_family, starts);
}

void SourceSweep::run(bool starts, Progress& progress) {
    const auto data = source_.data_ranges();
    if (starts && starts_to_ < checkpoint_.swept) {
        std::vector<ByteRange> swept;
        for (const auto& r : data) {
            if (const auto part = overlap(r, {starts_to_, checkpoint_.swept - starts_to_}))
                swept.push_back(*part);
        }
        const auto end = checkpoint_.swept;
        sweep_ranges(swept, starts_to_, {false, true}, progress,
                     [&](std::uint64_t to) { starts_to_ = std::min(to, end); });
        save();
        if (progress.enough()) return;
    }
    sweep_ranges(data, checkpoint_.swept, {true, starts}, progress, [&](std::uint64_t swept) {
        checkpoint_.swept = swept;
        if (starts) starts_to_ = swept;
    });
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
    // All that is there is found again.
    shelf_.drop_traces(wanted);
    take_up(false);
    limits_.set_left_out(checkpoint_.left_out);
    checkpoint_.settled = false;
    std::vector<ByteRange> data;
    for (const auto& r : source_.data_ranges()) {
        for (const auto& part : wanted.within(r)) data.push_back(part);
    }
    sweep_ranges(data, 0, {true, starts_to_ > 0}, progress, [](std::uint64_t) {});
    take_up(complete());
    limits_.set_left_out(checkpoint_.left_out);
    save();
}

void SourceSweep::sweep_ranges(const std::vector<ByteRange>& ranges, std::uint64_t from, Sought sought,
                               Progress& progress, const std::function<void(std::uint64_t)>& reached) {
    progress.stage(sought.traces ? "sweeping" : "looking for starts of contents");
    progress.counts_bytes();
    progress.at(from, source_.size());
    live_ = shelf_.live_ranges();
    held_.clear();
    for (const auto* fs : file_systems())
        held_.push_back(fs->accounts_for_its_space() ? shelf_.held_by(fs->family()) : RangeSet());
    auto saved = std::chrono::steady_clock::now();
    const auto find = [sought](const SweepBuffer& buffer) {
        Finds out;
        if (sought.starts) out.starts = find_starts(buffer);
        if (!sought.traces) return out;
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
        if (family == contents_family)
            out.push_back(
                fmt::format("The source has {} more places at which a content may begin than are worth "
                            "looking at, most of them alike; they were passed over.",
                            grouped(traces)));
        else if (!family.empty())
            out.push_back(fmt::format(
                "The source has {} more pieces of what may be {} folders and tables than are worth keeping, "
                "most of them alike; they were passed over.",
                grouped(traces), family));
    }
    return out;
}

}  // namespace undershelf
