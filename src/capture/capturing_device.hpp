#pragma once
// A source that is read through its capture: whatever is read of it is copied into the image at the same
// time, once; what is there already is taken from the image. So file systems can be looked through while a
// drive is still dying.

#include "capture/copier.hpp"
#include "capture/image_file.hpp"

namespace undershelf {

class CapturingDevice final : public ByteDevice {
  public:
    CapturingDevice(Copier& copier, const ImageFile& image) : copier_(copier), image_(image) {}

    std::string path() const override { return copier_.device().path(); }
    std::uint64_t size() const override { return copier_.device().size(); }
    std::uint32_t sector_size() const override { return copier_.device().sector_size(); }
    std::string changed() const override { return copier_.device().changed(); }
    std::vector<ByteRange> data_ranges() const override { return copier_.device().data_ranges(); }

    /// Asks the source for what was never asked for; what failed once fails again without a read. Calls come
    /// from several threads, and are answered one after the other. Throws what Copier::read throws.
    bool read_at(std::uint64_t offset, MutableBytes out) const override;

    /// All that was asked for so far, in whole sectors.
    RangeSet asked() const;

  private:
    Copier& copier_;
    const ImageFile& image_;
    mutable std::mutex mutex_;
    mutable RangeSet asked_;
};

}  // namespace undershelf
