#pragma once
// A source as everything above sees it: any byte range can be asked for at any time; what cannot be read
// comes back as zeros and is said to be missing. Read errors are narrowed down to sectors and remembered.

#include <memory>
#include <mutex>
#include <string>
#include <vector>

#include "base/byte_range.hpp"
#include "source/byte_device.hpp"

namespace undershelf {

struct SourceOptions {
    std::string unreadable_list = {};    ///< path of a CSV of ranges to be treated as unreadable, or empty
    RangeSet unreadable = {};            ///< more such ranges
    std::size_t cache_bytes = 32 << 20;  ///< memory for blocks read lately
};

class Source {
  public:
    /// Without a cache (0 bytes) only what is asked for is read.
    explicit Source(std::unique_ptr<ByteDevice> device, std::size_t cache_bytes = 32 << 20);
    ~Source();

    std::string path() const { return device_->path(); }
    std::uint64_t size() const { return device_->size(); }
    std::uint32_t sector_size() const { return device_->sector_size(); }
    std::vector<ByteRange> data_ranges() const { return device_->data_ranges(); }
    std::vector<ByteDevice::Gap> gaps() const { return device_->gaps(); }

    /// Fills `out` from `offset`. Returns the ranges of the source that could not be read, or that lie after
    /// its end; they are zeros in `out`. Safe to call from several threads.
    std::vector<ByteRange> read(std::uint64_t offset, MutableBytes out) const;
    /// The bytes of `range`, zeros where they cannot be read.
    ByteVector read_vector(const ByteRange& range) const;
    /// One on-disk structure, or nothing when any byte of it cannot be read.
    template <class Structure>
    std::optional<Structure> read_structure(std::uint64_t offset) const {
        Structure out;
        static_assert(std::is_trivially_copyable_v<Structure> && alignof(Structure) == 1);
        if (!read(offset, {reinterpret_cast<std::uint8_t*>(&out), sizeof out}).empty()) return std::nullopt;
        return out;
    }

    /// All ranges that were found unreadable so far, in whole sectors, those that are not copied among them.
    RangeSet unreadable() const;
    /// Of an image: what its source was not asked for yet.
    const RangeSet& not_copied() const { return not_copied_; }

  private:
    struct Cache;
    void read_through_cache(std::uint64_t offset, MutableBytes out) const;
    void read_device(std::uint64_t offset, MutableBytes out) const;
    void narrow(std::uint64_t offset, MutableBytes out) const;

    std::unique_ptr<ByteDevice> device_;
    mutable std::mutex mutex_;
    std::unique_ptr<Cache> cache_;
    mutable RangeSet unreadable_;
    RangeSet not_copied_;
};

/// Opens an image, a split image (by its first part) or a block device. The coverage beside an image says
/// what of it was never copied. Throws Error(input).
std::unique_ptr<Source> open_source(const std::string& path, const SourceOptions& options = {});

}  // namespace undershelf
