#include "capture/capturing_device.hpp"

namespace undershelf {

bool CapturingDevice::read_at(std::uint64_t offset, MutableBytes out) const {
    const std::lock_guard lock(mutex_);
    const std::uint64_t sector = sector_size();
    const auto from = offset / sector * sector;
    const auto end = std::min((offset + out.size() + sector - 1) / sector * sector, size());
    const ByteRange wanted{from, end - from};
    asked_.add(wanted);
    while (const auto waits = copier_.coverage().first(CoverageState::waiting, wanted)) {
        const auto block_end = (waits->offset / Copier::block_size + 1) * Copier::block_size;
        copier_.read({waits->offset, std::min(waits->end(), block_end) - waits->offset},
                     CoverageState::leapt);
    }
    if (!copier_.coverage().holds(wanted)) return false;
    copier_.drain();
    return image_.read(offset, out);
}

RangeSet CapturingDevice::asked() const {
    const std::lock_guard lock(mutex_);
    return asked_;
}

}  // namespace undershelf
