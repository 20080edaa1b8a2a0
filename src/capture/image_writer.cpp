#include "capture/image_writer.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cstdlib>
#include <new>
#include <set>
#include <system_error>

#include "base/ensure.hpp"
#include "base/error.hpp"
#include "base/sha256.hpp"

namespace undershelf {

namespace {
constexpr std::size_t most_buffers = 24;
constexpr std::size_t most_items = 4096;
constexpr std::chrono::seconds between_saves{2};
/// A save takes at most this share of the time.
constexpr int save_share = 10;

bool is_full(const std::system_error& e) {
    return e.code() == std::errc::no_space_on_device || e.code().value() == EDQUOT;
}

Error what_failed(const std::system_error& e) {
    return Error(
        Trouble::output,
        is_full(e) ? fmt::format("There is no room left for {}. What was copied is kept: make room there and "
                                 "give the same command again, which goes on from here.",
                                 e.what())
                   : fmt::format("The image cannot be written: {}. What was copied and saved is kept; the "
                                 "same command goes on from there.",
                                 e.what()));
}
}  // namespace

ReadBuffer::ReadBuffer() : data_(static_cast<std::uint8_t*>(std::aligned_alloc(4096, capacity))) {
    if (!data_) throw std::bad_alloc();
}

void ReadBuffer::Free::operator()(std::uint8_t* data) const {
    std::free(data);
}

ImageWriter::ImageWriter(ImageFile& image, CoverageRecord record, ReplacedFile coverage, BlockHashes& hashes)
    : image_(image),
      record_(std::move(record)),
      coverage_(std::move(coverage)),
      hashes_(hashes),
      thread_([this] { work(); }) {}

ImageWriter::~ImageWriter() {
    try {
        finish();
    } catch (...) {
        // Somebody has thrown already, or would have heard of it from finish().
    }
}

std::unique_ptr<ReadBuffer> ImageWriter::buffer() {
    std::unique_lock lock(mutex_);
    less_.wait(lock, [&] { return !free_.empty() || buffers_ < most_buffers; });
    if (free_.empty()) {
        ++buffers_;
        return std::make_unique<ReadBuffer>();
    }
    auto out = std::move(free_.back());
    free_.pop_back();
    return out;
}

void ImageWriter::give_back(std::unique_ptr<ReadBuffer> buffer) {
    if (!buffer) return;
    const std::lock_guard lock(mutex_);
    free_.push_back(std::move(buffer));
    less_.notify_all();
}

void ImageWriter::put(const ByteRange& range, CoverageState state, std::unique_ptr<ReadBuffer> buffer) {
    if (range.empty()) {
        give_back(std::move(buffer));
    } else {
        ensure(!buffer || range.length <= ReadBuffer::capacity, "more was read than a buffer holds");
        hand_over({range, state, false, std::move(buffer)});
    }
}

void ImageWriter::mark(const ByteRange& range, CoverageState state) {
    if (!range.empty()) hand_over({range, state, false, nullptr});
}

void ImageWriter::narrowed(const ByteRange& range) {
    if (!range.empty()) hand_over({range, CoverageState::leapt, true, nullptr});
}

void ImageWriter::hand_over(Item&& item) {
    std::unique_lock lock(mutex_);
    less_.wait(lock, [&] { return items_.size() < most_items || failure_; });
    if (failure_) std::rethrow_exception(failure_);
    items_.push_back(std::move(item));
    more_.notify_one();
}

void ImageWriter::drain() {
    std::unique_lock lock(mutex_);
    less_.wait(lock, [&] { return (items_.empty() && !busy_) || failure_; });
    if (failure_) std::rethrow_exception(failure_);
}

void ImageWriter::finish() {
    {
        const std::lock_guard lock(mutex_);
        ends_ = true;
        more_.notify_one();
    }
    if (thread_.joinable()) thread_.join();
    const std::lock_guard lock(mutex_);
    if (failure_) std::rethrow_exception(std::exchange(failure_, nullptr));
}

void ImageWriter::work() {
    for (bool going_on = true; going_on;) {
        Item item;
        bool have = false;
        {
            std::unique_lock lock(mutex_);
            more_.wait_for(lock, between_saves, [&] { return !items_.empty() || ends_; });
            if (!items_.empty()) {
                item = std::move(items_.front());
                items_.pop_front();
                have = busy_ = true;
            }
            going_on = have || !ends_;
        }
        try {
            // After a failure what comes is let go: nothing may be said to be copied that is not.
            if (!failure_) write_next(have ? &item : nullptr, !going_on);
        } catch (const std::system_error& e) {
            after_failure(e, have ? item.range : ByteRange());
        } catch (...) {
            const std::lock_guard lock(mutex_);
            failure_ = std::current_exception();
        }
        give_back(std::move(item.buffer));
        const std::lock_guard lock(mutex_);
        busy_ = false;
        less_.notify_all();
    }
}

void ImageWriter::write_next(Item* item, bool last) {
    using Duration = std::chrono::steady_clock::duration;
    if (item) apply(*item);
    // The last blocks are hashed while what was written goes to the drive.
    if (last) hashes_.look_at_rest(record_.coverage);
    // What is written first is saved at once: without a sample nothing could prove what the image is.
    const bool due = !saved_ || std::chrono::steady_clock::now() - *saved_ >
                                    std::max<Duration>(between_saves, save_share * save_took_);
    if (unsaved_ && (last || due)) save();
    if (!last) return;
    hashes_.wait();
    hashes_.save();
}

/// What is in the image is worth saying all the same. On a full drive that takes room that is given back by
/// what was written last.
void ImageWriter::after_failure(const std::system_error& failure, const ByteRange& under_way) {
    constexpr int most_given_back = 16;
    try {
        if (!under_way.empty() && is_full(failure) && !record_.coverage.holds(under_way))
            image_.give_back(under_way);
    } catch (const std::system_error&) {
        // Not every file system can.
    }
    for (int i = 0; i < most_given_back; ++i) {
        try {
            save();
            break;
        } catch (const std::system_error& e) {
            if (!is_full(e) || !make_room()) break;
        }
    }
    const std::lock_guard lock(mutex_);
    failure_ = std::make_exception_ptr(what_failed(failure));
}

bool ImageWriter::make_room() {
    if (latest_.empty()) return false;
    const auto range = latest_.back();
    latest_.pop_back();
    record_.coverage.set(range, CoverageState::waiting);
    std::erase_if(record_.samples,
                  [&](const SourceSample& s) { return overlap(s.range, range).has_value(); });
    hashes_.touched(range);
    try {
        image_.give_back(range);
    } catch (const std::system_error&) {
        return false;
    }
    return true;
}

void ImageWriter::apply(Item& item) {
    if (item.narrowed) {
        narrowed_.push_back(item.range);
        unsaved_ = true;
        return;
    }
    if (item.buffer && item.state == CoverageState::copied) {
        image_.write(item.range.offset,
                     Bytes(item.buffer->bytes()).first(static_cast<std::size_t>(item.range.length)));
        constexpr std::size_t most_latest = 16;
        latest_.push_back(item.range);
        if (latest_.size() > most_latest) latest_.pop_front();
    }
    if (item.state == CoverageState::zeros) image_.clear(item.range);
    record_.coverage.set(item.range, item.state);
    unsaved_ = true;
    if (!is_in_image(item.state)) return;
    hashes_.touched(item.range);
    hashes_.look(item.range, record_.coverage);
}

/// Hashes of the stretches by which the source and the image are known again, as soon as they are in the
/// image: the usual places and the start of each part; while the image has none of these, the start of what
/// there is.
void ImageWriter::take_samples() {
    constexpr std::uint64_t sample_length = 4096, most_parts = 1024;
    std::set<std::uint64_t> known;
    for (const auto& s : record_.samples) known.insert(s.range.offset);
    const auto& coverage = record_.coverage;
    const auto take = [&](const ByteRange& place) {
        if (known.count(place.offset) || !coverage.holds(place)) return;
        ByteVector bytes(static_cast<std::size_t>(place.length));
        if (!image_.read(place.offset, bytes)) return;
        Sha256 hash;
        hash.add(bytes);
        known.insert(place.offset);
        record_.samples.push_back({place, hash.hex()});
    };
    for (const auto& place : sample_places(coverage.size())) take(place);
    for (std::uint64_t i = 0; record_.part_size && i < most_parts && i * record_.part_size < coverage.size();
         ++i)
        take({i * record_.part_size, std::min(sample_length, coverage.size() - i * record_.part_size)});
    if (record_.samples.empty()) {
        if (const auto first = coverage.first(CoverageState::copied, {0, coverage.size()}))
            take({first->offset, std::min(first->length, sample_length)});
    }
    std::sort(record_.samples.begin(), record_.samples.end(),
              [](const auto& a, const auto& b) { return a.range.offset < b.range.offset; });
}

void ImageWriter::save() {
    const auto began = std::chrono::steady_clock::now();
    image_.sync();
    take_samples();
    std::vector<ByteRange> narrowed;
    for (const auto* ranges : {&record_.narrowed.ranges(), &std::as_const(narrowed_)}) {
        for (const auto& r : *ranges) {
            for (const auto& leapt : record_.coverage.ranges(CoverageState::leapt, r))
                narrowed.push_back(leapt);
        }
    }
    record_.narrowed = RangeSet(std::move(narrowed));
    narrowed_.clear();
    coverage_.write(text_of(record_));
    hashes_.save();
    unsaved_ = false;
    saved_ = std::chrono::steady_clock::now();
    save_took_ = *saved_ - began;
}

}  // namespace undershelf
