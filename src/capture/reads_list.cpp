#include "capture/reads_list.hpp"

#include <fmt/format.h>
#include <unistd.h>

#include <cerrno>
#include <mutex>
#include <string_view>
#include <system_error>

#include "base/error.hpp"
#include "writing/files.hpp"

namespace undershelf {

namespace {

class ListedDevice final : public ByteDevice {
  public:
    ListedDevice(std::unique_ptr<ByteDevice> inner, FileDescriptor list)
        : inner_(std::move(inner)), list_(std::move(list)) {}
    ~ListedDevice() override { write_out(); }

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
        lines_ += fmt::format("{},{},{}\n", offset, out.size(), got);
        if (lines_.size() > most_kept) write_out();
        return got;
    }

  private:
    static constexpr std::size_t most_kept = 64 << 10;

    /// The list is for looking at: a capture does not end because of it.
    void write_out() const {
        for (std::string_view rest = lines_; !rest.empty();) {
            const auto n = ::write(list_.get(), rest.data(), rest.size());
            if (n < 0 && errno == EINTR) continue;
            if (n < 0) break;
            rest.remove_prefix(static_cast<std::size_t>(n));
        }
        lines_.clear();
    }

    std::unique_ptr<ByteDevice> inner_;
    mutable std::mutex mutex_;
    mutable std::string lines_ = "offset,length,read\n";
    FileDescriptor list_;
};

}  // namespace

std::unique_ptr<ByteDevice> make_listed_device(std::unique_ptr<ByteDevice> inner, const SourceGuard& guard,
                                               const std::string& path) {
    try {
        return std::make_unique<ListedDevice>(std::move(inner), open_to_write(guard, path, There::must_not));
    } catch (const std::system_error& e) {
        if (e.code() == std::errc::file_exists)
            throw Error(Trouble::refused,
                        fmt::format("{} is there already; give the list of reads another name.", path));
        throw Error(Trouble::output,
                    fmt::format("The list of reads {} cannot be made: {}.", path, e.code().message()));
    }
}

}  // namespace undershelf
