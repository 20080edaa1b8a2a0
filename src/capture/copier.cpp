#include "capture/copier.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <thread>

#include "base/text.hpp"

namespace undershelf {

namespace {

/// After so many failures in a row a place that was read well is asked for once more: a drive that has died
/// fails there, too.
constexpr unsigned failures_before_asking = 16;
/// When nothing at all was read so far, single sectors are tried after so many failures: long reads may all
/// have met a bad one.
constexpr unsigned failures_without_any = 64;
constexpr std::size_t sectors_to_try = 32;
constexpr std::size_t good_places = 16;

/// A stretch counts as zeros where it is a whole block of them: so it comes out the same however often the
/// capture was interrupted.
bool is_whole_block(const ByteRange& range, std::uint64_t size) {
    return range.offset % Copier::block_size == 0 &&
           (range.length == Copier::block_size || range.end() == size);
}

}  // namespace

Copier::Copier(const ByteDevice& device, Coverage coverage, ImageWriter& writer, const CopyOptions& options,
               Progress& progress)
    : device_(device),
      coverage_(std::move(coverage)),
      writer_(writer),
      options_(options),
      progress_(progress),
      began_(std::chrono::steady_clock::now()) {
    for (const auto& r : coverage_.ranges(CoverageState::copied)) {
        good_.push_back(r.offset);
        if (good_.size() == good_places) break;
    }
}

void Copier::set_aim(std::vector<ByteRange> ranges) {
    aim_ = RangeSet(std::move(ranges)).ranges();
    aim_total_ = total_length(aim_);
    aim_before_ = 0;
    for (const auto& r : aim_) {
        for (const auto& s : coverage_.within(r)) aim_before_ += is_in_image(s.state) ? s.range.length : 0;
    }
    in_image_before_ = coverage_.bytes(CoverageState::copied) + coverage_.bytes(CoverageState::zeros);
    tell();
}

void Copier::tell() {
    const auto in_image = coverage_.bytes(CoverageState::copied) + coverage_.bytes(CoverageState::zeros);
    progress_.at(aim_before_ + in_image - in_image_before_, aim_total_);
    progress_.trouble(coverage_.bytes(CoverageState::unreadable), coverage_.bytes(CoverageState::leapt));
}

void Copier::take_zeros(const ByteRange& range) {
    coverage_.set(range, CoverageState::zeros);
    writer_.mark(range, CoverageState::zeros);
    tell();
}

bool Copier::read(const ByteRange& range, CoverageState failing) {
    auto buffer = writer_.buffer();
    const auto into = buffer->bytes().first(static_cast<std::size_t>(range.length));
    const auto asked = options_.now();
    const auto got = device_.read_some(range.offset, into);
    const bool in_time = options_.now() - asked <= options_.patience;
    ++reads_;
    const ByteRange good{range.offset, got}, bad{range.offset + got, range.length - got};
    if (got) {
        const bool zeros = got == range.length && is_whole_block(range, device_.size()) && all_zero(into);
        const auto state = zeros ? CoverageState::zeros : CoverageState::copied;
        coverage_.set(good, state);
        note_success(good);
        writer_.put(good, state, std::move(buffer));
    } else {
        writer_.put({}, failing, std::move(buffer));
    }
    if (!bad.empty()) note_failure(bad, failing);
    tell();
    rest(got);
    return bad.empty() && in_time;
}

void Copier::note_success(const ByteRange& range) {
    failures_ = 0;
    undo_.clear();
    if (good_.size() == good_places) good_.pop_front();
    good_.push_back(range.offset);
}

void Copier::note_failure(const ByteRange& range, CoverageState failing) {
    for (const auto& s : coverage_.within(range)) undo_.push_back(s);
    coverage_.set(range, failing);
    writer_.mark(range, failing);
    if (const auto changed = device_.changed(); !changed.empty())
        lose(fmt::format(
            "{} is not what it was when the capture began: {}. Everything that was copied is kept. "
            "Connect it again, and the same command goes on from here.",
            device_.path(), changed));
    ++failures_;
    look_whether_lost();
}

void Copier::look_whether_lost() {
    if (good_.empty()) {
        if (failures_ % failures_without_any != 0 || anything_reads()) return;
        lose(fmt::format(
            "Nothing at all can be read from {}: {} reads at as many places failed. Check how it is "
            "connected; a drive that is not even recognised needs other help than a copy.",
            device_.path(), failures_));
    }
    if (failures_ % failures_before_asking != 0) return;
    if (answers()) {
        undo_.clear();
        return;
    }
    lose(fmt::format(
        "{} has stopped answering: it fails even where it was read before. Everything that was "
        "copied is kept, and what failed last counts as not asked for. Switch it off, let it rest, "
        "and give the same command again, which goes on from here.",
        device_.path()));
}

/// Asks for the first sectors of some of the places that failed, which are then known to be good or bad.
bool Copier::anything_reads() {
    const std::uint64_t sector = device_.sector_size();
    const auto step = std::max<std::size_t>(1, undo_.size() / sectors_to_try);
    for (std::size_t i = 0; i < undo_.size(); i += step) {
        const ByteRange one{undo_[i].range.offset, std::min(sector, undo_[i].range.length)};
        if (coverage_.at(one.offset) != CoverageState::leapt) continue;
        auto buffer = writer_.buffer();
        ++reads_;
        const auto got =
            device_.read_some(one.offset, buffer->bytes().first(static_cast<std::size_t>(one.length)));
        const bool good = got == one.length;
        const auto state = good ? CoverageState::copied : CoverageState::unreadable;
        coverage_.set(one, state);
        writer_.put(good ? one : ByteRange{}, state, std::move(buffer));
        if (good) {
            note_success(one);
            return true;
        }
        writer_.mark(one, state);
    }
    return false;
}

/// Asks again for a sector that was read well, another one each time.
bool Copier::answers() {
    const auto at = good_.front();
    good_.pop_front();
    good_.push_back(at);
    auto buffer = writer_.buffer();
    const auto sector = std::min<std::uint64_t>(device_.sector_size(), device_.size() - at);
    const auto got = device_.read_some(at, buffer->bytes().first(static_cast<std::size_t>(sector)));
    writer_.put({}, CoverageState::copied, std::move(buffer));
    ++reads_;
    return got == sector;
}

void Copier::lose(const std::string& sentence) {
    std::reverse(undo_.begin(), undo_.end());
    for (const auto& s : undo_) {
        coverage_.set(s.range, s.state);
        writer_.mark(s.range, s.state);
    }
    tell();
    throw SourceLost(sentence);
}

/// Drives that need rest are asked for no more than so much a second.
void Copier::rest(std::uint64_t bytes) {
    if (!options_.most_per_second) return;
    read_bytes_ += bytes;
    const auto due =
        began_ +
        std::chrono::duration_cast<std::chrono::steady_clock::duration>(std::chrono::duration<double>(
            static_cast<double>(read_bytes_) / static_cast<double>(options_.most_per_second)));
    while (!progress_.stopped() && std::chrono::steady_clock::now() < due)
        std::this_thread::sleep_for(std::min<std::chrono::steady_clock::duration>(
            std::chrono::milliseconds(50), due - std::chrono::steady_clock::now()));
}

}  // namespace undershelf
