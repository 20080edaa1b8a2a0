#include "capture/capture.hpp"

#include <fmt/format.h>
#include <sys/statvfs.h>

#include <algorithm>
#include <filesystem>

#include "base/error.hpp"
#include "base/safe_file.hpp"
#include "base/sha256.hpp"
#include "capture/capturing_device.hpp"
#include "capture/earlier.hpp"
#include "capture/reads_list.hpp"
#include "source/destination_guard.hpp"
#include "source/simulated_device.hpp"

namespace fs = std::filesystem;

namespace undershelf {

namespace {

/// How often structures are looked for again once more of them could be read.
constexpr int most_looks = 4;

std::unique_ptr<ByteDevice> open_drive(const CaptureOptions& options) {
    auto device = open_device(options.source_path, Access::direct);
    // A copy of a copy has no more than the first one.
    if (const auto coverage = coverage_beside(options.source_path))
        device = make_covered_device(std::move(device), *coverage);
    if (!options.simulation.empty())
        device = make_simulated_device(std::move(device), read_simulation(options.simulation));
    if (!options.reads_list.empty()) device = make_listed_device(std::move(device), options.reads_list);
    return device;
}

std::vector<ByteRange> all_wanted(const CaptureOptions& options, const ByteDevice& device) {
    if (options.ranges.empty()) return {{0, device.size()}};
    std::vector<ByteRange> out;
    for (const auto& r : options.ranges) {
        const auto whole = whole_sectors(r, device.sector_size(), device.size());
        if (!whole)
            throw Error(Trouble::usage,
                        fmt::format("--range {},{} lies beyond the end of {}, which has {} bytes.", r.offset,
                                    r.length, options.source_path, device.size()));
        out.push_back(*whole);
    }
    return RangeSet(std::move(out)).ranges();
}

/// Parts of `ranges` that are not in the image yet.
std::uint64_t bytes_to_come(const std::vector<ByteRange>& ranges, const Coverage& coverage) {
    std::uint64_t out = 0;
    for (const auto& r : RangeSet(ranges).ranges()) {
        for (const auto& s : coverage.within(r)) out += is_in_image(s.state) ? 0 : s.range.length;
    }
    return out;
}

void check_room(const CaptureOptions& options, const ByteDevice& device, std::vector<ByteRange> ranges,
                const Coverage& coverage) {
    std::uint64_t needed = 0;
    const RangeSet data(device.data_ranges());
    std::vector<ByteRange> with_data;
    for (const auto& r : ranges) {
        for (const auto& d : data.within(r)) with_data.push_back(d);
    }
    needed = bytes_to_come(with_data, coverage);
    struct statvfs room {};
    const auto folder = fs::absolute(options.image_path).parent_path();
    if (::statvfs(folder.c_str(), &room) != 0)
        throw Error(Trouble::output,
                    fmt::format("There is no folder {} to put the image into.", folder.string()));
    const auto free = std::uint64_t{room.f_bavail} * room.f_frsize;
    if (needed > free)
        throw Error(
            Trouble::refused,
            fmt::format("{} has {} bytes free, and {} bytes are to be copied. Give a place with more room, "
                        "or copy less at a time, with --range or --from.",
                        folder.string(), free, needed));
}

/// Blocks that a sparse source has nothing in are zeros without being read.
void take_holes(Copier& copier) {
    const auto size = copier.device().size();
    auto data = copier.device().data_ranges();
    for (const auto& gap : copier.device().gaps()) data.push_back(gap.range);
    for (const auto& hole : RangeSet(std::move(data)).gaps_within({0, size})) {
        const auto from = (hole.offset + Copier::block_size - 1) / Copier::block_size * Copier::block_size;
        const auto end = hole.end() == size ? size : hole.end() / Copier::block_size * Copier::block_size;
        if (from >= end) continue;
        for (const auto& r : copier.coverage().ranges(CoverageState::waiting, {from, end - from}))
            copier.take_zeros(r);
    }
}

/// For readers whose reads tell how far the capture is, from whichever thread they are: they say nothing
/// themselves.
class StopsWith final : public Progress {
  public:
    explicit StopsWith(const Progress& other) : other_(other) {}
    bool stopped() const override { return other_.stopped(); }

  private:
    const Progress& other_;
};

/// Everything the file systems are read from comes first; what of it fails is narrowed down before the rest
/// is asked for, and then they are read once more, since more of it may be there to be followed.
std::vector<ByteRange> copy_structures(Copier& copier, const ImageFile& image, Passes& passes) {
    auto& progress = copier.progress();
    const auto in_image = [&] {
        return copier.coverage().bytes(CoverageState::copied) + copier.coverage().bytes(CoverageState::zeros);
    };
    std::vector<ByteRange> ranges;
    auto before = in_image();
    for (int look = 0; look < most_looks && !progress.stopped(); ++look) {
        auto owned = std::make_unique<CapturingDevice>(copier, image);
        const auto& seen = *owned;
        // Without a cache, so that no more is read than is asked for.
        const Source source(std::move(owned), 0);
        progress.stage("metadata");
        StopsWith quiet(progress);
        const auto volumes = find_structures(source, quiet);
        ranges = seen.asked().ranges();
        for (const auto& r : ranges_of(volumes, source.size(), source.sector_size())) ranges.push_back(r);
        passes.run(ranges);
        if (in_image() == before) break;
        before = in_image();
    }
    return ranges;
}

/// What the shelf of a source says, checked to be about this one.
struct ShelfFiles {
    ShelfFiles(const CaptureOptions& options, std::uint64_t source_size) {
        if (options.shelf_path.empty()) return;
        const Shelf shelf(options.shelf_path);
        if (shelf.source().size != source_size)
            throw Error(
                Trouble::input,
                fmt::format("{} is not a shelf of {}: it was made from a source of {} bytes, and this one "
                            "has {}.",
                            options.shelf_path, options.source_path, shelf.source().size, source_size));
        samples = read_samples(shelf.database());
        files = wanted_files(shelf, options.files.value_or(Selection()));
    }
    std::vector<SourceSample> samples;
    std::vector<WantedFile> files;
};

/// One capture, from what is wanted to what came of it.
class Job {
  public:
    Job(const CaptureOptions& options, Progress& progress)
        : options_(options),
          progress_(progress),
          drive_(open_drive(options)),
          before_(options, *drive_),
          shelf_(options, drive_->size()) {
        result_.size = drive_->size();
        result_.coverage_path = before_.path();
        result_.image_files = before_.names(options);
        if (options.metadata_only) {
            wanted_.clear();  // what it is the file systems tell
        } else if (options.files) {
            wanted_ = in_order_of_worth(shelf_.files, before_.record().coverage, drive_->sector_size());
        } else {
            wanted_ = all_wanted(options, *drive_);
        }
        check_room(options, *drive_, wanted_, before_.record().coverage);
    }

    CaptureResult run() {
        auto& record = before_.record();
        // First, so that an image without a word on it cannot be left over.
        if (before_.fresh()) replace_file(before_.path(), text_of(record));
        ImageFile image(options_.image_path, record.coverage.size(), record.part_size, before_.fresh());
        if (!before_.fresh()) give_up_what_is_cut_off(image.was_long());
        BlockHashes hashes(image, BlockHashes::path_of(options_.image_path));
        if (!before_.fresh()) hashes.load();
        ImageWriter writer(image, record, before_.path(), hashes);
        Copier copier(*drive_, record.coverage, writer, options_.copy, progress_);
        copy(copier, image);
        progress_.stage("finishing the image");
        writer.finish();
        conclude(copier, image);
        return std::move(result_);
    }

  private:
    /// What lies behind the image's end was lost since it was copied.
    void give_up_what_is_cut_off(std::uint64_t end) {
        auto& coverage = before_.record().coverage;
        end = end / drive_->sector_size() * drive_->sector_size();
        std::uint64_t lost = 0;
        for (const auto& s : coverage.within({end, coverage.size() - end})) {
            if (!is_in_image(s.state)) continue;
            lost += s.range.length;
            coverage.set(s.range, CoverageState::waiting);
        }
        if (lost)
            result_.notes.push_back(
                fmt::format("{} was shorter than its coverage tells; {} bytes behind its end were "
                            "copied anew.",
                            options_.image_path, lost));
    }

    void copy(Copier& copier, const ImageFile& image) {
        Passes passes(copier, before_.record().narrowed, options_.passes);
        try {
            copier.set_aim(wanted_);
            take_holes(copier);
            if (options_.metadata_first || options_.metadata_only) {
                auto structures = copy_structures(copier, image, passes);
                if (options_.metadata_only) wanted_ = std::move(structures);
            }
            if (!shelf_.samples.empty()) check_shelf(copier, image);
            if (!progress_.stopped()) passes.run(wanted_);
        } catch (const SourceLost& e) {
            result_.lost = e.what();
        }
        result_.interrupted = progress_.stopped();
        result_.reads = copier.reads();
    }

    void check_shelf(Copier& copier, const ImageFile& image) const {
        const Source source(std::make_unique<CapturingDevice>(copier, image), 0);
        if (const auto at = sample_that_differs(source, shelf_.samples))
            throw Error(
                Trouble::input,
                fmt::format("{} is not a shelf of {}: the bytes at offset {} are others than when it was "
                            "made.",
                            options_.shelf_path, options_.source_path, *at));
    }

    void conclude(const Copier& copier, const ImageFile& image) {
        for (const auto& r : RangeSet(wanted_).ranges()) {
            result_.wanted += r.length;
            for (const auto& s : copier.coverage().within(r)) {
                result_.bytes[static_cast<std::size_t>(s.state)] += s.range.length;
                ++result_.stretches[static_cast<std::size_t>(s.state)];
            }
        }
        result_.coverage = copier.coverage();
        result_.image_holds =
            copier.coverage().bytes(CoverageState::copied) + copier.coverage().bytes(CoverageState::zeros);
        if (const auto changed = drive_->changed(); !changed.empty() && result_.lost.empty())
            result_.notes.push_back(
                fmt::format("{} changed while it was copied: {}. The image has the {} bytes that "
                            "it had at first.",
                            options_.source_path, changed, result_.size));
        if (!shelf_.files.empty()) result_.files = covered(shelf_.files, copier.coverage());
        if (result_.interrupted) return;
        progress_.stage("looking at the image");
        const Source source(make_covered_device(open_device(result_.image_files.front()), before_.path()));
        result_.structures = covered(find_structures(source, progress_), copier.coverage());
        if (options_.hash && copier.coverage().holds({0, result_.size})) hash_image(image);
    }

    void hash_image(const ImageFile& image) {
        progress_.stage("hashing the image");
        progress_.counts_bytes();
        Sha256 hash;
        ByteVector bytes(Copier::block_size);
        for (std::uint64_t at = 0; at < image.size(); at += bytes.size()) {
            const auto part = MutableBytes(bytes).first(
                static_cast<std::size_t>(std::min<std::uint64_t>(bytes.size(), image.size() - at)));
            if (progress_.stopped() || !image.read(at, part)) return;
            hash.add(part);
            progress_.at(at, image.size());
        }
        result_.sha256 = hash.hex();
        replace_file(
            options_.image_path + ".sha256",
            fmt::format("{}  {}\n", result_.sha256, fs::path(options_.image_path).filename().string()));
    }

    const CaptureOptions& options_;
    Progress& progress_;
    std::unique_ptr<ByteDevice> drive_;
    EarlierCapture before_;
    ShelfFiles shelf_;
    std::vector<ByteRange> wanted_;
    CaptureResult result_;
};

}  // namespace

CaptureResult capture(const CaptureOptions& options, Progress& progress) {
    for (const auto& path : {options.image_path, options.coverage_path, options.reads_list}) {
        if (!path.empty()) refuse_destination_on_source(options.source_path, path);
    }
    return Job(options, progress).run();
}

}  // namespace undershelf
