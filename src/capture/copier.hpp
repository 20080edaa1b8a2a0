#pragma once
// Asks the source for bytes, once each time, and sees to what comes of it: bytes go into the image, trouble
// into the coverage. Knows a drive that fails here and there from one that answers no more.

#include <chrono>
#include <deque>
#include <functional>

#include "base/progress.hpp"
#include "capture/image_writer.hpp"
#include "source/byte_device.hpp"

namespace undershelf {

struct CopyOptions {
    std::chrono::milliseconds patience{1000};  ///< a slower read counts as trouble, though its bytes are kept
    std::uint64_t most_per_second = 0;         ///< bytes; 0: as fast as it goes
    /// What patience goes by: asked before a read and after it.
    std::function<std::chrono::steady_clock::time_point()> now = std::chrono::steady_clock::now;
};

/// The source answers no more, or is another one: a sentence. What was copied stays.
class SourceLost : public std::runtime_error {
  public:
    using std::runtime_error::runtime_error;
};

class Copier {
  public:
    /// Reads of this length at most, at whole multiples of it.
    static constexpr std::uint64_t block_size = ReadBuffer::capacity;

    Copier(const ByteDevice& device, Coverage coverage, ImageWriter& writer, const CopyOptions& options,
           Progress& progress);

    const ByteDevice& device() const { return device_; }
    const Coverage& coverage() const { return coverage_; }
    Progress& progress() { return progress_; }
    std::uint64_t reads() const { return reads_; }

    /// What progress is told: how much of this is in the image.
    void set_aim(std::vector<ByteRange> ranges);

    /// Reads `range` (at most block_size bytes of whole sectors) once. What cannot be read gets the state
    /// `failing`. True when all of it came, and in time. Throws SourceLost, and Error(output) when the image
    /// cannot be written.
    bool read(const ByteRange& range, CoverageState failing);
    /// A leapt range has failed in a shorter read, too.
    void narrowed(const ByteRange& range) { writer_.narrowed(range); }
    /// Known to be zeros without reading.
    void take_zeros(const ByteRange& range);
    /// Returns once all that was read is in the image.
    void drain() { writer_.drain(); }

  private:
    void note_success(const ByteRange& range);
    void note_failure(const ByteRange& range, CoverageState failing);
    bool answers();
    bool anything_reads();
    void look_whether_lost();
    [[noreturn]] void lose(const std::string& sentence);
    void rest(std::uint64_t bytes);
    void tell();

    const ByteDevice& device_;
    Coverage coverage_;
    ImageWriter& writer_;
    CopyOptions options_;
    Progress& progress_;
    std::vector<ByteRange> aim_;
    std::uint64_t aim_total_ = 0, aim_before_ = 0, in_image_before_ = 0;
    std::uint64_t reads_ = 0;
    std::chrono::steady_clock::time_point began_;
    std::uint64_t read_bytes_ = 0;
    std::deque<std::uint64_t> good_;       ///< where reading went well lately
    unsigned failures_ = 0;                ///< since something was read last
    std::vector<Coverage::Stretch> undo_;  ///< what was marked since then, as it was before
};

}  // namespace undershelf
