#include "scan/settle.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <map>

#include "base/error.hpp"
#include "base/text.hpp"
#include "scan/read_volume.hpp"
#include "systems/file_systems.hpp"

namespace undershelf {

/// What the shelf knows of present volumes.
struct VolumeSettler::Known {
    std::vector<PresentLife> present;
    /// By live files, and by what present volumes of each family tell of themselves.
    std::map<std::string, RangeSet> accounted;
    std::map<std::string, RangeSet> taken;  ///< by live files, and by present volumes of each family

    Settling settling(const Source& source, const FileSystem& fs, const TraceStore& traces,
                      const std::vector<std::uint64_t>& heads, const ReadOptions& options) const {
        return {source, traces, present, heads, taken.at(std::string(fs.family())), options};
    }
    std::unique_ptr<TraceStore> traces(const ShelfWriter& shelf, const FileSystem& fs) const {
        return shelf.traces(fs.family(), accounted.at(std::string(fs.family())));
    }
};

VolumeSettler::Known VolumeSettler::look() const {
    Known out;
    shelf_.commit();
    const auto live = shelf_.live_ranges().ranges();
    std::map<std::string, std::vector<ByteRange>> accounted;
    for (const auto& v : shelf_.view().volumes()) {
        if (v.state != VolumeState::present) continue;
        const auto named = shelf_.named_in(v.number);
        out.present.push_back({v, named.oldest});
        auto& its = accounted[v.family];
        its.insert(its.end(), named.folders.ranges().begin(), named.folders.ranges().end());
        // One without a head was made of traces itself, of all that are there.
        if (!v.geometry.empty()) its.push_back({v.offset, v.size});
        if (const auto* fs = file_system_of(v); fs && !fs->accounts_for_its_space()) {
            const auto own = fs->own_use(source_, v).ranges();
            its.insert(its.end(), own.begin(), own.end());
        }
    }
    for (const auto* fs : file_systems()) {
        const std::string family(fs->family());
        const auto held = shelf_.held_by(family).ranges();
        auto taken = live;
        taken.insert(taken.end(), held.begin(), held.end());
        auto& its = accounted[family];
        its.insert(its.end(), live.begin(), live.end());
        if (fs->accounts_for_its_space()) its.insert(its.end(), held.begin(), held.end());
        out.taken[family] = RangeSet(std::move(taken));
        out.accounted[family] = RangeSet(std::move(its));
    }
    return out;
}

std::vector<Recognition> VolumeSettler::settle(const Known& known, const Progress& progress) const {
    std::vector<Recognition> out;
    for (const auto* fs : file_systems()) {
        const auto traces = known.traces(shelf_, *fs);
        for (auto& r : fs->settle(known.settling(source_, *fs, *traces, heads_, options_), progress))
            out.push_back(std::move(r));
        if (progress.stopped()) break;
    }
    return out;
}

std::vector<Recognition> VolumeSettler::present_ones(const Progress& progress) {
    auto out = settle(look(), progress);
    std::erase_if(out, [](const Recognition& r) { return r.volume.state != VolumeState::present; });
    return out;
}

std::vector<std::uint64_t> VolumeSettler::lost_folders(const Volume& volume) {
    const auto* fs = file_system_of(volume);
    if (!fs || !volume.readable || !fs->is_searched_in_part(volume, options_)) return {};
    shelf_.commit();
    const auto named = shelf_.named_in(volume.number);
    auto told = shelf_.live_ranges().ranges();
    const auto held = shelf_.held_by(fs->family()).ranges();
    const auto& folders = named.all_folders.ranges();
    told.insert(told.end(), held.begin(), held.end());
    told.insert(told.end(), folders.begin(), folders.end());
    const RangeSet left_out(std::move(told));
    const auto traces = shelf_.traces(fs->family(), left_out);
    return fs->lost_folders(source_, {volume, named.oldest}, *traces, options_);
}

Volume VolumeSettler::volume_of(const VolumeHint& told, const Known& known) const {
    const auto* fs = file_system_named(told.system);
    if (!fs)
        throw Error(Trouble::usage,
                    fmt::format("`{}` in --volume-at is no file system that this version reads; give {}.",
                                told.system, fmt::join(system_names(), ", ")));
    if (!told.cluster_size) {
        if (auto r = fs->recognise(source_, told.offset, options_)) {
            for (const auto& life : known.present) {
                if (life.volume.family == r->volume.family && life.volume.offset == r->volume.offset)
                    throw Error(Trouble::usage,
                                fmt::format("The {} volume at offset {} is present, as volume {}.",
                                            r->volume.file_system, told.offset, life.volume.number));
            }
            r->volume.state = VolumeState::former;
            r->volume.found_by = "told";
            return r->volume;
        }
    }
    const auto traces = known.traces(shelf_, *fs);
    return fs->as_told(told, known.settling(source_, *fs, *traces, heads_, options_)).volume;
}

void VolumeSettler::former_ones(const Hints& hints, Progress& progress) {
    progress.stage("settling former volumes");
    const auto known = look();
    std::vector<Volume> volumes;
    for (const auto& told : hints.told()) volumes.push_back(volume_of(told, known));
    for (auto& r : settle(known, progress)) {
        const bool told = std::any_of(volumes.begin(), volumes.end(), [&](const Volume& v) {
            return v.family == r.volume.family && v.grid_start == r.volume.grid_start &&
                   v.cluster_size == r.volume.cluster_size;
        });
        if (r.volume.state == VolumeState::former && !told && !hints.leaves_out(r.volume))
            volumes.push_back(std::move(r.volume));
    }
    if (progress.stopped()) return;
    volumes = shelf_.settle_volumes(std::move(volumes));
    shelf_.take_out_former();
    for (const auto& v : volumes) {
        if (progress.stopped()) return;
        read(v, known, progress);
    }
    if (progress.stopped()) return;
    merge(volumes);
    if (const auto marks = shelf_.unmark_set_aside())
        shelf_.add_diagnostic(
            0, fmt::format("{} marked entries no longer exist; their marks were removed.", grouped(marks)));
}

void VolumeSettler::read(const Volume& volume, const Known& known, Progress& progress) {
    const auto* fs = file_system_of(volume);
    if (!fs) return;
    shelf_.set_volume_progress(volume.number, "reading");
    read_volume(*fs, source_, volume, *known.traces(shelf_, *fs), options_, shelf_, progress);
}

/// What a present volume lists without a name, or by its name alone, and a former one in the same space tells
/// of as well, is the former one's.
void VolumeSettler::merge(const std::vector<Volume>& former) {
    for (const auto& v : former) {
        for (const auto& p : shelf_.view().volumes()) {
            const bool meet = p.state == VolumeState::present && p.family == v.family &&
                              overlap({p.offset, p.size}, {v.offset, v.size});
            if (meet) shelf_.merge_told_twice(p.number, v.number);
        }
    }
}

}  // namespace undershelf
