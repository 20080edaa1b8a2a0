#include "patched_volume.hpp"

#include <cstdio>
#include <cstdlib>
#include <cstring>
#include <map>

#include "rating/rate.hpp"
#include "shelf/packing.hpp"
#include "volume/admission.hpp"
#include "volume/content_stream.hpp"
#include "volume/tree.hpp"

namespace undershelf::fuzz {

namespace {

constexpr std::uint64_t sector = 512;

/// A volume in memory under a few changed bytes.
class PatchedDevice final : public ByteDevice {
  public:
    explicit PatchedDevice(const ByteVector& base) : base_(base) {}
    std::string path() const override { return "fuzz"; }
    std::uint64_t size() const override { return base_.size(); }
    std::uint32_t sector_size() const override { return sector; }
    bool read_at(std::uint64_t offset, MutableBytes out) const override {
        std::memcpy(out.data(), base_.data() + offset, out.size());
        for (auto it = changes_.lower_bound(offset); it != changes_.end() && it->first < offset + out.size();
             ++it)
            out[it->first - offset] = it->second;
        return true;
    }
    void change(std::uint64_t at, std::uint8_t byte) {
        if (at < base_.size()) changes_[at] = byte;
    }

  private:
    const ByteVector& base_;
    std::map<std::uint64_t, std::uint8_t> changes_;
};

std::vector<std::uint64_t> sectors_with_content(const ByteVector& bytes) {
    std::vector<std::uint64_t> out;
    for (std::uint64_t n = 0; n * sector + sector <= bytes.size(); ++n) {
        if (!all_zero(Bytes(bytes).subspan(n * sector, sector))) out.push_back(n);
    }
    return out;
}

void promise(bool kept, const char* what) {
    if (kept) return;
    std::fprintf(stderr, "broken promise: %s\n", what);
    std::abort();
}

class CheckingSink final : public EntrySink {
  public:
    CheckingSink(const Source& source, const Volume& volume)
        : EntrySink(Budget::of(volume, source.size())),
          source_(source),
          volume_(volume),
          tree_(-1, [this](const EntryKey&) { return ++ids_; }) {}

    void lay_anew(const EntryKey&, Relayout&& layout) override {
        promise(!layout.ranges.empty(), "a layout has ranges");
        for (const auto& r : layout.ranges) promise(r.end() > r.offset, "ranges hold something");
    }
    void entry(Entry&& e) override {
        admit(e, volume_, budget());
        if (e.is_dir) {
            tree_.add(e);
        } else {
            tree_.folder(e.parent);
        }
        std::uint64_t at = 0;
        for (const auto& p : e.pieces) {
            promise(p.offset >= at, "pieces ascend");
            promise(p.length <= e.size - p.offset, "pieces end within the file");
            at = p.offset + p.length;
        }
        promise(unpack_pieces(pack_pieces(e.pieces)) == e.pieces, "pieces can be packed");
        const auto rating = rate_alone(e);
        promise(rating.chance >= 0 && rating.chance <= 1 && rating.left >= 0 && rating.left <= 1,
                "shares are shares");
        if (++looked_at_ > 200) return;
        ContentStream stream(source_, e.pieces, e.size);
        stream.first(100);
        ByteVector last(100);
        stream.read(e.size > 100 ? e.size - 100 : 0, last);
    }
    void evidence(const EntryKey&, Evidence&&) override {}
    void in_use(const ByteRange&) override {}
    void diagnostic(std::string) override {}

    void finish() {
        tree_.finish([](const TreeBuilder::Node&) {}, [](const TreeBuilder::Node&, const std::string&) {});
        for (const auto& node : tree_.nodes())
            promise(node.depth <= bound::folder_depth, "folders reach the root");
    }

  private:
    const Source& source_;
    const Volume& volume_;
    std::int64_t ids_ = 0;
    TreeBuilder tree_;
    int looked_at_ = 0;
};

}  // namespace

std::vector<Seed> seeds_of(std::vector<ByteVector> volumes) {
    std::vector<Seed> out;
    for (auto& bytes : volumes) {
        auto sectors = sectors_with_content(bytes);
        out.push_back({std::move(bytes), std::move(sectors)});
    }
    return out;
}

std::unique_ptr<Source> patched(const std::vector<Seed>& seeds, Bytes input) {
    const auto& seed = seeds[input.empty() ? 0 : input[0] % seeds.size()];
    auto device = std::make_unique<PatchedDevice>(seed.bytes);
    auto rest = input.empty() ? input : input.subspan(1);
    while (rest.size() > 5) {
        const auto which = static_cast<std::size_t>(rest[0] | rest[1] << 8) % seed.sectors.size();
        const auto at = static_cast<std::uint64_t>(rest[2] | rest[3] << 8) % sector;
        const auto count = std::min<std::size_t>(rest[4] % 16 + 1u, rest.size() - 5);
        for (std::size_t i = 0; i < count; ++i)
            device->change(seed.sectors[which] * sector + at + i, rest[5 + i]);
        rest = rest.subspan(5 + count);
    }
    return std::make_unique<Source>(std::move(device), 1 << 20);
}

void read_all(const FileSystem& fs, const Source& source) {
    for (const auto place : fs.copy_places({0, source.size()}, source.sector_size()))
        fs.recognise_copy(source, place);
    const auto found = fs.recognise(source, 0);
    if (!found) return;
    fs.space(source, found->volume);
    read_volume(fs, source, found->volume, NoTraces());
}

void read_volume(const FileSystem& fs, const Source& source, const Volume& volume, const TraceStore& traces) {
    Progress progress;
    CheckingSink sink(source, volume);
    try {
        const auto reader = fs.open(source, volume, traces, {});
        reader->read(sink, progress);
        reader->remnants(sink, progress);
        fs.open(source, volume, traces, {})->structures(progress);
    } catch (const Error&) {
        // Said in a sentence: as good as read.
    }
    sink.finish();
}

}  // namespace undershelf::fuzz
