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
        for (auto& gap : image_->gaps()) {
            missing.push_back(gap.range);
            gaps_.push_back(std::move(gap));
        }
        const RangeSet parts_missing(missing);
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
            const auto why = lost    ? "the image ends before"
                             : waits ? "not copied yet, by " + name
                                     : "unreadable when it was copied, by " + name;
            for (const auto& r : parts_missing.gaps_within(range)) gaps_.push_back({r, why, waits});
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

namespace {

[[noreturn]] void not_of_this(const std::string& coverage, const std::string& image, const std::string& why) {
    throw Error(
        Trouble::input,
        fmt::format("{} is not about {}: {}. The image was replaced or changed, or the coverage is of "
                    "another one. Bring the right ones together, or move the coverage away.",
                    coverage, image, why));
}

}  // namespace

std::unique_ptr<ByteDevice> open_covered_device(const std::string& image, const std::string& coverage_path,
                                                Access access) {
    const auto record = read_coverage_file(coverage_path);
    auto device = record.part_size
                      ? open_split_device(image, SplitShape{record.coverage.size(), record.part_size})
                  : is_split_image(image) ? open_split_device(image)
                                          : open_file_device(image, access);
    if (device->size() > record.coverage.size())
        not_of_this(coverage_path, image,
                    fmt::format("it is about {} bytes, and the image has {}", record.coverage.size(),
                                device->size()));
    if (const auto at = sample_not_in_image(*device, record))
        not_of_this(coverage_path, image,
                    fmt::format("the bytes at offset {} are others than were copied", *at));
    if (holds_nothing(record.coverage) && !reads_as_zeros(*device))
        not_of_this(coverage_path, image, "it says that nothing is copied yet, and the image has data");
    return std::make_unique<CoveredDevice>(std::move(device), record, coverage_path);
}

}  // namespace undershelf
