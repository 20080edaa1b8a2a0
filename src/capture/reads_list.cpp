#include "capture/reads_list.hpp"

#include <fmt/format.h>

#include <filesystem>
#include <fstream>
#include <mutex>

#include "base/error.hpp"

namespace undershelf {

namespace {

class ListedDevice final : public ByteDevice {
  public:
    ListedDevice(std::unique_ptr<ByteDevice> inner, std::ofstream list)
        : inner_(std::move(inner)), list_(std::move(list)) {
        list_ << "offset,length,read\n";
    }

    std::string path() const override { return inner_->path(); }
    std::uint64_t size() const override { return inner_->size(); }
    std::uint32_t sector_size() const override { return inner_->sector_size(); }
    std::vector<ByteRange> data_ranges() const override { return inner_->data_ranges(); }
    std::vector<Gap> gaps() const override { return inner_->gaps(); }
    std::string changed() const override { return inner_->changed(); }

    bool read_at(std::uint64_t offset, MutableBytes out) const override {
        return read_some(offset, out) == out.size();
    }
    std::size_t read_some(std::uint64_t offset, MutableBytes out) const override {
        const auto got = inner_->read_some(offset, out);
        const std::lock_guard lock(mutex_);
        list_ << fmt::format("{},{},{}\n", offset, out.size(), got);
        return got;
    }

  private:
    std::unique_ptr<ByteDevice> inner_;
    mutable std::mutex mutex_;
    mutable std::ofstream list_;
};

}  // namespace

std::unique_ptr<ByteDevice> make_listed_device(std::unique_ptr<ByteDevice> inner, const std::string& path) {
    std::error_code ec;
    if (std::filesystem::exists(path, ec))
        throw Error(Trouble::refused,
                    fmt::format("{} is there already; give the list of reads another name.", path));
    std::ofstream list(path);
    if (!list) throw Error(Trouble::output, fmt::format("The list of reads {} cannot be made.", path));
    return std::make_unique<ListedDevice>(std::move(inner), std::move(list));
}

}  // namespace undershelf
