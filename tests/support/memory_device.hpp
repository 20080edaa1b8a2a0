#pragma once
// A source in memory, with ranges that can be made to fail.

#include "source/source.hpp"

namespace undershelf::test {

class MemoryDevice final : public ByteDevice {
  public:
    explicit MemoryDevice(ByteVector bytes, std::uint32_t sector_size = 512)
        : bytes_(std::move(bytes)), sector_size_(sector_size) {}
    std::string path() const override { return "memory"; }
    std::uint64_t size() const override { return bytes_.size(); }
    std::uint32_t sector_size() const override { return sector_size_; }
    bool read_at(std::uint64_t offset, MutableBytes out) const override {
        if (offset > bytes_.size() || out.size() > bytes_.size() - offset) return false;
        std::copy_n(bytes_.begin() + static_cast<std::ptrdiff_t>(offset), out.size(), out.begin());
        return true;
    }

  private:
    ByteVector bytes_;
    std::uint32_t sector_size_;
};

inline std::unique_ptr<Source> memory_source(ByteVector bytes, RangeSet unreadable = {}) {
    return std::make_unique<Source>(
        make_faulty_device(std::make_unique<MemoryDevice>(std::move(bytes)), std::move(unreadable)));
}

}  // namespace undershelf::test
