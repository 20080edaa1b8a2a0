#include "scan/volume_sink.hpp"

#include <fmt/format.h>

#include "rating/rate.hpp"

namespace undershelf {

namespace {
/// A badly damaged volume could have one for every sector; nobody reads more than the first few.
constexpr std::uint64_t most_diagnostics = 200;
}  // namespace

VolumeSink::VolumeSink(int volume, ShelfWriter& shelf, Progress& progress)
    : volume_(volume),
      shelf_(shelf),
      progress_(progress),
      tree_(-volume, [&shelf] { return shelf.next_id(); }) {
    shelf_.add_folder(-volume, volume, "");
}

void VolumeSink::entry(Entry&& e) {
    const auto folder = tree_.folder(e.parent);
    const auto id = e.is_dir ? tree_.add(e) : shelf_.next_id();
    shelf_.add_entry(id, volume_, folder, e, rate_alone(e));
    if (e.is_dir) {
        // So that listings made while the scan runs have paths, too.
        if (const auto path = tree_.early_path(e.key)) shelf_.add_folder(id, volume_, *path);
    }
    if (++found_ % 256 == 0) progress_.found(found_);
}

void VolumeSink::evidence(const EntryKey& key, Evidence&& evidence) {
    late_.emplace_back(key, std::move(evidence));
}

void VolumeSink::in_use(const ByteRange& range) {
    shelf_.add_in_use(volume_, range);
}

void VolumeSink::diagnostic(std::string sentence) {
    if (++diagnostics_ <= most_diagnostics) shelf_.add_diagnostic(volume_, sentence);
}

void VolumeSink::finish() {
    tree_.finish([this](const TreeBuilder::Node& node) {
        Entry e;
        e.key = node.key;
        e.origin = Origin::deleted;
        e.name = node.name;
        e.name_certainty = NameCertainty::made_up;
        e.is_dir = true;
        e.evidence.push_back({Fact::stand_in_name, 0, 0, {}});
        shelf_.add_entry(node.id, volume_, -volume_, e, rate_alone(e));
    });
    for (const auto& node : tree_.nodes()) {
        if (node.id > 0) shelf_.add_folder(node.id, volume_, node.path);
    }
    shelf_.add_evidence(volume_, late_);
    if (diagnostics_ > most_diagnostics)
        shelf_.add_diagnostic(volume_, fmt::format("... and {} more broken structures on volume {}.",
                                                   diagnostics_ - most_diagnostics, volume_));
    progress_.found(found_);
    shelf_.commit();
}

}  // namespace undershelf
