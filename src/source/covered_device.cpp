#include <fmt/format.h>

#include "base/error.hpp"
#include "source/byte_device.hpp"
#include "source/coverage_file.hpp"

namespace undershelf {

namespace {

class CoveredDevice final : public ByteDevice {
  public:
    CoveredDevice(std::unique_ptr<ByteDevice> image, const CoverageRecord& record, const std::string& name)
        : image_(std::move(image)), size_(record.coverage.size()), sector_size_(record.sector_size) {
        std::vector<ByteRange> missing, data;
        for (const auto& s : record.coverage.stretches()) {
            if (s.state == CoverageState::copied) data.push_back(s.range);
            // Copied, and cut off from the image since.
            const bool lost = is_in_image(s.state) && s.range.end() > image_->size();
            if (is_in_image(s.state) && !lost) continue;
            auto range = s.range;
            if (lost && range.offset < image_->size()) {
                range.length = range.end() - image_->size();
                range.offset = image_->size();
            }
            const bool waits = s.state != CoverageState::unreadable;
            gaps_.push_back({range,
                             lost    ? "the image ends before"
                             : waits ? "not copied yet, by " + name
                                     : "unreadable when it was copied, by " + name,
                             waits});
            missing.push_back(range);
        }
        missing_ = RangeSet(std::move(missing));
        data_ = RangeSet(std::move(data));
    }

    std::string path() const override { return image_->path(); }
    std::uint64_t size() const override { return size_; }
    std::uint32_t sector_size() const override { return sector_size_; }
    std::vector<Gap> gaps() const override { return gaps_; }

    bool read_at(std::uint64_t offset, MutableBytes out) const override {
        return !missing_.touches({offset, out.size()}) && image_->read_at(offset, out);
    }

    std::size_t read_some(std::uint64_t offset, MutableBytes out) const override {
        const auto there = until_first_of(missing_, {offset, out.size()});
        return there ? image_->read_some(offset, out.first(there)) : 0;
    }

    std::vector<ByteRange> data_ranges() const override {
        std::vector<ByteRange> out;
        for (const auto& r : image_->data_ranges()) {
            for (const auto& covered : data_.within(r)) out.push_back(covered);
        }
        return out;
    }

  private:
    std::unique_ptr<ByteDevice> image_;
    std::uint64_t size_;
    std::uint32_t sector_size_;
    std::vector<Gap> gaps_;
    RangeSet missing_, data_;
};

}  // namespace

std::unique_ptr<ByteDevice> make_covered_device(std::unique_ptr<ByteDevice> image,
                                                const std::string& coverage_path) {
    const auto record = read_coverage_file(coverage_path);
    if (image->size() > record.coverage.size())
        throw Error(
            Trouble::input,
            fmt::format("{} is about a source of {} bytes, and {} has {}: it is the coverage of another "
                        "image. Move it away, or give the image that it belongs to.",
                        coverage_path, record.coverage.size(), image->path(), image->size()));
    return std::make_unique<CoveredDevice>(std::move(image), record, coverage_path);
}

}  // namespace undershelf
