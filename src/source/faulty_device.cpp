#include "source/byte_device.hpp"

namespace undershelf {

namespace {

class FaultyDevice final : public ByteDevice {
  public:
    FaultyDevice(std::unique_ptr<ByteDevice> inner, RangeSet unreadable)
        : inner_(std::move(inner)), unreadable_(std::move(unreadable)) {}

    std::string path() const override { return inner_->path(); }
    std::uint64_t size() const override { return inner_->size(); }
    std::uint32_t sector_size() const override { return inner_->sector_size(); }
    std::vector<ByteRange> data_ranges() const override { return inner_->data_ranges(); }
    std::vector<Gap> gaps() const override { return inner_->gaps(); }

    bool read_at(std::uint64_t offset, MutableBytes out) const override {
        return !unreadable_.touches({offset, out.size()}) && inner_->read_at(offset, out);
    }
    std::size_t read_some(std::uint64_t offset, MutableBytes out) const override {
        const auto there = until_first_of(unreadable_, {offset, out.size()});
        return there ? inner_->read_some(offset, out.first(there)) : 0;
    }

  private:
    std::unique_ptr<ByteDevice> inner_;
    RangeSet unreadable_;
};

}  // namespace

std::unique_ptr<ByteDevice> make_faulty_device(std::unique_ptr<ByteDevice> inner, RangeSet unreadable) {
    return std::make_unique<FaultyDevice>(std::move(inner), std::move(unreadable));
}

}  // namespace undershelf
