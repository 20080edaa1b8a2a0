#include "exfat/loose.hpp"

#include <fmt/format.h>

#include <algorithm>

#include "exfat/entry_set.hpp"

namespace undershelf::exfat {

namespace {

constexpr std::size_t most_loose = 65'536;
constexpr std::uint64_t sector = 512, most_read = 32 << 20;

class LooseReader final : public VolumeReader {
  public:
    LooseReader(const Source& source, std::vector<ByteRange>&& stretches)
        : source_(source), stretches_(std::move(stretches)) {}

    void read(EntrySink& sink, Progress& progress) override {
        progress.stage("reading folders of a former volume");
        for (std::size_t i = 0; i < stretches_.size() && !progress.stopped(); ++i) {
            read_stretch(stretches_[i], sink);
            progress.at(i + 1, stretches_.size());
        }
    }
    void remnants(EntrySink&, Progress&) override {}

  private:
    void read_stretch(const ByteRange& stretch, EntrySink& sink) const {
        Entry folder;
        folder.key = {stretch.offset, 2};
        folder.origin = Origin::live;
        folder.is_dir = true;
        folder.name = fmt::format("folder-at-{}", stretch.offset / sector);
        folder.name_certainty = NameCertainty::made_up;
        folder.evidence.push_back({Fact::stand_in_name, 0, 0, {}});
        const auto key = folder.key;
        sink.entry(std::move(folder));
        for (const auto& set : parse_folder(FolderBytes(source_, {stretch})).sets) {
            auto e = basic_entry(set, key);
            e.origin = set.in_use && !set.after_end ? Origin::live : Origin::deleted;
            if (!e.is_dir && e.size == 0) {
                e.layout = Layout::known;
                e.evidence.push_back({Fact::empty_slot, 0, 0, {}});
            } else if (!e.is_dir) {
                e.evidence.push_back({Fact::no_start, 0, 0, {}});
            }
            sink.entry(std::move(e));
        }
    }

    const Source& source_;
    std::vector<ByteRange> stretches_;
};

}  // namespace

std::string pack_loose(const std::vector<SetTrace>& sets) {
    NumberLines out;
    ByteRange stretch;
    std::size_t stretches = 0;
    const auto add = [&] {
        if (!stretch.empty() && stretches++ < most_loose) out.add("loose", {stretch.offset, stretch.length});
    };
    for (const auto& set : sets) {
        // Between two sets of a folder is what is left of others, a sector of it at most.
        if (stretch.empty() || set.offset > stretch.end() + sector ||
            set.end() > stretch.offset + most_read) {
            add();
            stretch = {set.offset, 0};
        }
        stretch.length = std::max(stretch.end(), set.end()) - stretch.offset;
    }
    add();
    return out.text();
}

std::vector<ByteRange> unpack_loose(const NumberLines& lines) {
    std::vector<ByteRange> out;
    for (const auto& n : lines.all("loose", 2)) out.push_back({n[0], std::min(n[1], most_read)});
    return out;
}

std::unique_ptr<VolumeReader> open_loose(const Source& source, std::vector<ByteRange> stretches) {
    return std::make_unique<LooseReader>(source, std::move(stretches));
}

}  // namespace undershelf::exfat
