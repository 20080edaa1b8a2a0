#pragma once
// Writes what was read into the image, on a thread of its own, and keeps the coverage file true: it never
// speaks of bytes that are not on the destination's drive yet.

#include <chrono>
#include <condition_variable>
#include <deque>
#include <exception>
#include <memory>
#include <mutex>
#include <optional>
#include <thread>

#include "capture/block_hashes.hpp"
#include "capture/image_file.hpp"
#include "source/coverage_file.hpp"

namespace undershelf {

/// Memory for one read, aligned for reads past the system's cache.
class ReadBuffer {
  public:
    static constexpr std::size_t capacity = 1 << 20;
    ReadBuffer();
    MutableBytes bytes() const { return {data_.get(), capacity}; }

  private:
    struct Free {
        void operator()(std::uint8_t* data) const;
    };
    std::unique_ptr<std::uint8_t, Free> data_;
};

class ImageWriter {
  public:
    /// `record` says what the image holds already.
    ImageWriter(ImageFile& image, CoverageRecord record, ReplacedFile coverage, BlockHashes& hashes);
    /// Writes what was handed over, and saves.
    ~ImageWriter();

    /// A buffer to read into; waits while too many are on their way to the image.
    std::unique_ptr<ReadBuffer> buffer();
    /// Takes bytes that were read: `bytes` is a part of `buffer`. Throws what writing earlier ones threw.
    void put(const ByteRange& range, CoverageState state, std::unique_ptr<ReadBuffer> buffer);
    /// Without bytes: what became of a range.
    void mark(const ByteRange& range, CoverageState state);
    /// A leapt place has failed in a shorter read, too.
    void narrowed(const ByteRange& range);
    /// Returns once all that was handed over is in the image. Throws what writing threw.
    void drain();
    /// Writes everything, hashes what is complete, saves, and ends. Throws what writing threw.
    void finish();

  private:
    struct Item {
        ByteRange range;
        CoverageState state{};
        bool narrowed = false;
        std::unique_ptr<ReadBuffer> buffer;
    };
    void hand_over(Item&& item);
    void work();
    void apply(Item& item);
    void write_next(Item* item, bool last);
    void after_failure(const std::system_error& failure, const ByteRange& under_way);
    bool make_room();
    void save();
    void take_samples();
    void give_back(std::unique_ptr<ReadBuffer> buffer);

    ImageFile& image_;
    CoverageRecord record_;
    std::vector<ByteRange> narrowed_;  ///< since the last save
    ReplacedFile coverage_;
    BlockHashes& hashes_;
    std::deque<ByteRange> latest_;  ///< written last, newest at the end
    std::optional<std::chrono::steady_clock::time_point> saved_;
    std::chrono::steady_clock::duration save_took_{};
    bool unsaved_ = false;

    std::mutex mutex_;
    std::condition_variable more_, less_;
    std::deque<Item> items_;
    std::vector<std::unique_ptr<ReadBuffer>> free_;
    std::size_t buffers_ = 0;
    bool busy_ = false, ends_ = false;
    std::exception_ptr failure_;
    std::thread thread_;
};

}  // namespace undershelf
