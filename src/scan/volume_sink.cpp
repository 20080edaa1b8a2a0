#include "scan/volume_sink.hpp"

#include <fmt/format.h>

#include "base/slash_path.hpp"
#include "rating/rate.hpp"
#include "volume/admission.hpp"
#include "volume/helpers.hpp"

namespace undershelf {

namespace {
/// A badly damaged volume could have one for every sector; nobody reads more than the first few.
constexpr std::uint64_t most_diagnostics = 200;

Evidence why_moved(TreeBuilder::Moved moved) {
    return {Fact::moved_to_root, 0, 0,
            moved == TreeBuilder::Moved::circle
                ? "Its folder chain loops; shown at the volume's root."
                : "It lies deeper than any program could follow, so it is shown at the volume's root."};
}
}  // namespace

VolumeSink::VolumeSink(const Volume& volume, std::uint64_t source_size, ShelfWriter& shelf,
                       Progress& progress)
    : EntrySink(Budget::of(volume, source_size)),
      head_(volume),
      volume_(volume.number),
      shelf_(shelf),
      progress_(progress),
      tree_(-volume.number, [this](const EntryKey& key) { return id_of(key, {}, {}); }) {
    shelf_.add_folder(-volume_, volume_, "");
}

std::int64_t VolumeSink::id_of(const EntryKey& key, std::string_view stream, std::string_view name) {
    return shelf_.id_for(head_, key, stream, name);
}

/// What a volume that is none any more held is former; what was deleted even before says so.
void VolumeSink::make_former(Entry& e) const {
    if (head_.state == VolumeState::present) return;
    if (e.origin == Origin::deleted) e.evidence.push_back({Fact::deleted_before, 0, 0, {}});
    e.origin = Origin::former;
}

void VolumeSink::entry(Entry&& e) {
    make_former(e);
    e.helper = serves_a_viewer(e);
    admit(e, head_, budget());
    auto folder = tree_.folder(e.parent);
    if (!e.is_dir) {
        shelf_.add_entry(id_of(e.key, e.stream, e.name), volume_, folder, e, sorting_of(e), rate_alone(e));
    } else {
        const auto placed = tree_.add(e);
        if (placed.moved != TreeBuilder::Moved::no) {
            e.evidence.push_back(why_moved(placed.moved));
            ++moved_;
        }
        shelf_.add_entry(placed.id, volume_, placed.parent_id, e, sorting_of(e), rate_alone(e));
        // So that listings made while the scan runs have paths, too.
        if (placed.path) shelf_.add_folder(placed.id, volume_, *placed.path);
    }
    if (++found_ % 256 != 0) return;
    progress_.found(found_);
    if (shelf_.watched()) progress_.wanted(shelf_.watched());
}

void VolumeSink::evidence(const EntryKey& key, Evidence&& evidence) {
    late_.emplace_back(key, std::move(evidence));
}

void VolumeSink::old_name(const EntryKey& key, const OldName& name) {
    auto& names = old_names_[key];
    if (names.size() < most_earlier_names) names.push_back(name);
}

/// Now that all folders have their places, names of before get their paths.
void VolumeSink::tell_old_names() {
    std::uint64_t left = bound::all_paths_bytes;
    for (const auto& [key, names] : old_names_) {
        for (const auto& name : names) {
            auto path = joined_path(tree_.path_of(name.folder).value_or(""), name.name);
            if (path.size() > left) return;
            left -= path.size();
            late_.emplace_back(
                key, Evidence{Fact::old_name, name.source, name.incomplete ? old_name_bit::incomplete : 0,
                              std::move(path)});
        }
    }
}

void VolumeSink::lay_anew(const EntryKey& key, Relayout&& layout) {
    if (budget().take(Budget::Cost::claim, layout.ranges.size()) == layout.ranges.size())
        layouts_.emplace_back(key, std::move(layout));
}

void VolumeSink::in_use(const ByteRange& range) {
    // A volume that was formatted over uses nothing any more.
    if (head_.state == VolumeState::present) shelf_.add_in_use(volume_, range);
}

void VolumeSink::diagnostic(std::string sentence) {
    if (++diagnostics_ <= most_diagnostics) shelf_.add_diagnostic(volume_, sentence);
}

void VolumeSink::write_stand_in(const TreeBuilder::Node& node) {
    Entry e;
    e.key = node.key;
    e.origin = head_.state == VolumeState::present ? Origin::deleted : Origin::former;
    e.name = node.name;
    e.name_certainty = NameCertainty::made_up;
    e.is_dir = true;
    e.evidence.push_back({Fact::stand_in_name, 0, 0, {}});
    shelf_.add_entry(node.id, volume_, -volume_, e, sorting_of(e), rate_alone(e));
}

void VolumeSink::write_settled(const TreeBuilder::Node& node, const std::string& path) {
    shelf_.add_folder(node.id, volume_, path);
    if (node.moved == TreeBuilder::Moved::no) return;
    shelf_.move_entry(node.id, -volume_);
    late_.emplace_back(node.key, why_moved(node.moved));
    ++moved_;
}

void VolumeSink::finish() {
    tree_.finish([this](const auto& node) { write_stand_in(node); },
                 [this](const auto& node, const std::string& path) { write_settled(node, path); });
    tell_old_names();
    shelf_.add_evidence(volume_, late_);
    shelf_.lay_anew(volume_, layouts_);
    if (moved_)
        shelf_.add_diagnostic(volume_,
                              fmt::format("{} of its folders lie within themselves or deeper than {} others; "
                                          "they are shown at the volume's root, with what is in them.",
                                          moved_, bound::folder_depth));
    for (const auto& sentence : budget().remarks()) shelf_.add_diagnostic(volume_, sentence);
    if (diagnostics_ > most_diagnostics)
        shelf_.add_diagnostic(volume_, fmt::format("... and {} more broken structures on volume {}.",
                                                   diagnostics_ - most_diagnostics, volume_));
    progress_.found(found_);
    shelf_.commit();
}

}  // namespace undershelf
