#pragma once
// The order in which a failing source is copied: what reads easily first, then ever closer to what does not.
// No sector that cannot be read is asked for more than three times: in a long read, in a short one, and by
// itself.
//
//   ahead   long reads forward; where one fails, or is slow, the next ones are leapt, by growing steps
//   back    long reads backward over what was leapt, by smaller leaps each time, until nothing waits
//   edges   short reads into what failed, from both sides; then single sectors, from both sides
//   again   single sectors that failed, as often as was wished

#include "capture/copier.hpp"

namespace undershelf {

struct PassOptions {
    bool from_end = false;  ///< begin at the end of the source
    unsigned again = 0;     ///< more tries for each sector that cannot be read
};

class Passes {
  public:
    /// `narrowed`: leapt places that were asked for in short reads before.
    Passes(Copier& copier, RangeSet narrowed, const PassOptions& options)
        : copier_(copier), narrowed_(std::move(narrowed)), options_(options) {}

    /// Copies `ranges` (whole sectors), in their order. Returns early once the progress says so. Throws what
    /// Copier::read throws.
    void run(const std::vector<ByteRange>& ranges);

  private:
    void sweep(const std::vector<ByteRange>& ranges, bool backward, std::uint64_t longest_leap);
    void sweep_forward(const ByteRange& range, std::uint64_t longest_leap);
    void sweep_backward(const ByteRange& range, std::uint64_t longest_leap);
    void edges(const std::vector<ByteRange>& ranges);
    void again(const std::vector<ByteRange>& ranges);
    std::vector<ByteRange> leapt(const std::vector<ByteRange>& ranges, bool narrowed) const;
    bool read_short(const ByteRange& range);
    void close_in(const std::vector<ByteRange>& ranges, std::uint64_t unit, bool to_the_middle);
    bool stopped() { return copier_.progress().stopped(); }

    Copier& copier_;
    RangeSet narrowed_;
    PassOptions options_;
};

}  // namespace undershelf
