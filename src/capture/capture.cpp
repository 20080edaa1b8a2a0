#include "capture/capture.hpp"

#include <fmt/format.h>
#include <sys/statvfs.h>

#include <algorithm>
#include <filesystem>
#include <fstream>
#include <map>

#include "base/error.hpp"
#include "capture/capturing_device.hpp"
#include "capture/earlier.hpp"
#include "capture/image_hash.hpp"
#include "capture/reads_list.hpp"
#include "source/simulated_device.hpp"

namespace fs = std::filesystem;

namespace undershelf {

namespace {

/// How often structures are looked for again once more of them could be read.
constexpr int most_looks = 4;

/// A copy of a copy has no more than the first one.
std::unique_ptr<ByteDevice> open_drive(const CaptureOptions& options) {
    auto device = open_device(options.source_path, Access::direct);
    if (!options.simulation.empty())
        device = make_simulated_device(std::move(device), read_simulation(options.simulation));
    return device;
}

std::string sums_path(const std::string& image) {
    return image + ".sha256";
}

/// Takes away what was made for a capture that came to nothing.
class MadeFiles {
  public:
    ~MadeFiles() {
        for (const auto& path : paths_) remove_quietly(path);
    }
    void add(const std::string& path) { paths_.push_back(path); }
    void keep() { paths_.clear(); }

  private:
    std::vector<std::string> paths_;
};

/// Every file that is written or read has a name of its own, and what is there already is ours.
void check_names(const CaptureOptions& options, const std::vector<std::string>& image, bool goes_on) {
    std::map<std::string, std::string> used;
    const auto add = [&](const std::string& path, const std::string& what) {
        if (path.empty()) return;
        const auto [it, fresh] = used.emplace(fs::weakly_canonical(target_of(path)).string(), what);
        if (!fresh)
            throw Error(Trouble::usage,
                        fmt::format("{} would be {} and {} at once. Give each a name of its own.", path,
                                    it->second, what));
    };
    for (const auto& file : files_of(options.source_path)) add(file, "the source");
    add(options.simulation, "the simulation");
    add(options.shelf_path, "the shelf");
    for (const auto& file : image) add(file, "the image");
    add(coverage_path_of(options), "the coverage");
    add(BlockHashes::path_of(options.image_path), "the list of hashes");
    add(options.reads_list, "the list of reads");
    if (options.hash) add(sums_path(options.image_path), "the checksum");
    if (goes_on) return;
    for (const auto& path : {BlockHashes::path_of(options.image_path), sums_path(options.image_path)}) {
        if (fs::exists(fs::symlink_status(path)))
            throw Error(
                Trouble::refused,
                fmt::format("{} is there already, of an image that is not. It is not written over. Move "
                            "it away, or give the image another name.",
                            path));
    }
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

/// What of `ranges` the source has data in, and the image does not have yet.
std::vector<ByteRange> to_come(const std::vector<ByteRange>& ranges, const Coverage& coverage,
                               const ByteDevice& device) {
    const RangeSet data(device.data_ranges());
    std::vector<ByteRange> out;
    for (const auto& r : RangeSet(ranges).ranges()) {
        for (const auto& s : coverage.within(r)) {
            if (is_in_image(s.state)) continue;
            for (const auto& d : data.within(s.range)) out.push_back(d);
        }
    }
    return out;
}

/// `there`: of what is to come, bytes that have their room in the image already.
void check_room(const CaptureOptions& options, std::uint64_t to_come, std::uint64_t there) {
    struct statvfs room {};
    const auto folder = fs::absolute(options.image_path).parent_path();
    if (::statvfs(folder.c_str(), &room) != 0)
        throw Error(Trouble::output,
                    fmt::format("There is no folder {} to put the image into.", folder.string()));
    const auto free = std::uint64_t{room.f_bavail} * room.f_frsize,
               needed = to_come - std::min(to_come, there);
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
          guard_(options.source_path),
          coverage_(guard_, coverage_path_of(options)),
          sums_(guard_, sums_path(options.image_path)),
          drive_(open_drive(options)),
          before_(options, *drive_),
          shelf_(options, drive_->size()) {
        result_.size = drive_->size();
        result_.coverage_path = coverage_.path();
        result_.image_files = before_.names(options);
        for (const auto& file : result_.image_files) guard_.refuse(file);
        check_names(options, result_.image_files, before_.was_there());
        if (options.metadata_only) {
            wanted_.clear();  // what it is the file systems tell
        } else if (options.files) {
            wanted_ = in_order_of_worth(shelf_.files, before_.record().coverage, drive_->sector_size());
        } else {
            wanted_ = all_wanted(options, *drive_);
        }
    }

    CaptureResult run() {
        auto& record = before_.record();
        const auto missing = to_come(wanted_, record.coverage, *drive_);
        if (!before_.was_there()) check_room(options_, total_length(missing), 0);
        ImageFile image(guard_, options_.image_path, record.coverage.size(), record.part_size,
                        before_.image_files());
        if (before_.was_there()) check_room(options_, total_length(missing), image.room_taken(missing));
        before_.check(options_, image, *drive_);
        BlockHashes hashes(image, ReplacedFile(guard_, BlockHashes::path_of(options_.image_path)));
        if (before_.was_there()) hashes.load();
        list_reads();
        start(image);
        {
            ImageWriter writer(image, record, coverage_, hashes);
            Copier copier(*drive_, record.coverage, writer, options_.copy, progress_);
            copy(copier, image);
            progress_.stage("finishing the image");
            writer.finish();
            copied_ = copier.coverage();
        }
        conclude(image, hashes);
        return std::move(result_);
    }

  private:
    void list_reads() {
        if (options_.reads_list.empty()) return;
        drive_ = make_listed_device(std::move(drive_), guard_, options_.reads_list);
        made_.add(options_.reads_list);
    }

    /// From here on there is an image, with its coverage beside it.
    void start(ImageFile& image) {
        if (!before_.was_there()) {
            made_.add(coverage_.path());
            made_.add(BlockHashes::path_of(options_.image_path));
            coverage_.write(text_of(before_.record()));
        } else if (before_.image_files() == There::must) {
            image.keep();
            give_up_what_is_cut_off(image.was_long());
        }
        image.set_length();
    }

    /// What lies after the image's end was lost since it was copied.
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
                fmt::format("{} was shorter than its coverage tells; {} bytes after its end were "
                            "copied anew.",
                            options_.image_path, lost));
    }

    void copy(Copier& copier, ImageFile& image) {
        Passes passes(copier, before_.record().narrowed, options_.passes);
        try {
            copier.set_aim(wanted_);
            if (!shelf_.samples.empty()) check_shelf(copier, image);
            // Whatever comes now, what was copied is kept.
            image.keep();
            made_.keep();
            take_holes(copier);
            if (options_.metadata_first || options_.metadata_only) {
                auto structures = copy_structures(copier, image, passes);
                if (options_.metadata_only) wanted_ = std::move(structures);
            }
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

    void conclude(ImageFile& image, BlockHashes& hashes) {
        if (options_.hash && !progress_.stopped() && copied_.holds({0, result_.size})) sum_up(image, hashes);
        for (const auto& r : RangeSet(wanted_).ranges()) {
            result_.wanted += r.length;
            for (const auto& s : copied_.within(r)) {
                result_.bytes[static_cast<std::size_t>(s.state)] += s.range.length;
                ++result_.stretches[static_cast<std::size_t>(s.state)];
            }
        }
        result_.coverage = copied_;
        result_.image_holds = copied_.bytes(CoverageState::copied) + copied_.bytes(CoverageState::zeros);
        if (const auto changed = drive_->changed(); !changed.empty() && result_.lost.empty())
            result_.notes.push_back(
                fmt::format("{} changed while it was copied: {}. The image has the {} bytes that "
                            "it had at first.",
                            options_.source_path, changed, result_.size));
        if (!shelf_.files.empty()) result_.files = covered(shelf_.files, copied_);
        if (result_.interrupted || holds_nothing(copied_)) return;
        progress_.stage("looking at the image");
        const Source source(open_covered_device(result_.image_files.front(), coverage_.path()));
        result_.structures = covered(find_structures(source, progress_), copied_);
    }

    void sum_up(ImageFile& image, BlockHashes& hashes) {
        const auto sum = hash_image(image, hashes, progress_);
        if (!sum.changed.empty()) return give_up_what_changed(sum.changed, image, hashes);
        if (sum.sha256.empty()) return;
        result_.sha256 = sum.sha256;
        write_sum(fmt::format("{}  {}\n", result_.sha256, fs::path(options_.image_path).filename().string()));
    }

    /// Never in place of another one, which may be the customer's.
    void write_sum(const std::string& line) {
        std::ifstream before(sums_.path());
        if (!before) return sums_.write(line);
        std::string there(line.size() + 1, '\0');
        before.read(there.data(), static_cast<std::streamsize>(there.size()));
        there.resize(static_cast<std::size_t>(before.gcount()));
        if (there != line)
            result_.notes.push_back(
                fmt::format("{} has another checksum, and was left as it is.", sums_.path()));
    }

    /// Such blocks are not what was copied, whatever the coverage says: they have to be copied again.
    void give_up_what_changed(const std::vector<ByteRange>& changed, ImageFile& image, BlockHashes& hashes) {
        auto record = read_coverage_file(coverage_.path());
        for (const auto& block : changed) {
            for (auto* coverage : {&record.coverage, &copied_}) coverage->set(block, CoverageState::waiting);
            std::erase_if(record.samples, [&](const auto& s) { return overlap(s.range, block).has_value(); });
            hashes.touched(block);
            image.clear(block);
        }
        image.sync();
        coverage_.write(text_of(record));
        hashes.save();
        result_.notes.push_back(fmt::format(
            "{} was changed since it was copied: {} bytes of it, from offset {} on, are not what was "
            "read from the source. They count as not copied. Give the same command again.",
            options_.image_path, total_length(changed), changed.front().offset));
    }

    const CaptureOptions& options_;
    Progress& progress_;
    MadeFiles made_;
    SourceGuard guard_;
    ReplacedFile coverage_, sums_;
    std::unique_ptr<ByteDevice> drive_;
    EarlierCapture before_;
    ShelfFiles shelf_;
    std::vector<ByteRange> wanted_;
    Coverage copied_{0};
    CaptureResult result_;
};

}  // namespace

CaptureResult capture(const CaptureOptions& options, Progress& progress) {
    return Job(options, progress).run();
}

}  // namespace undershelf
