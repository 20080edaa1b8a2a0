#pragma once
// Where bytes come from. A device only ever reads; nothing in the product can open a source for writing,
// because this interface, the only way to a source, has no such call.

#include <cstdint>
#include <memory>
#include <optional>
#include <string>
#include <vector>

#include "base/byte_range.hpp"
#include "base/bytes.hpp"

namespace undershelf {

class ByteDevice {
  public:
    virtual ~ByteDevice() = default;
    virtual std::string path() const = 0;
    virtual std::uint64_t size() const = 0;
    /// The unit in which the device fails and in which its structures are laid out: 512 or 4096 bytes.
    virtual std::uint32_t sector_size() const = 0;
    /// Fills all of `out` from `offset`, or returns false when any byte of it cannot be read; then `out` is
    /// undefined. Ranges reach at most to size(). Safe to call from several threads.
    virtual bool read_at(std::uint64_t offset, MutableBytes out) const = 0;
    /// Fills `out` from `offset` as far as can be read without asking twice. Returns how many bytes that
    /// were.
    virtual std::size_t read_some(std::uint64_t offset, MutableBytes out) const {
        return read_at(offset, out) ? out.size() : 0;
    }
    /// What the source is no more that it was when it was opened, as the end of a sentence: `it is not there
    /// any more`. Empty while it is the same. Asked when reading fails.
    virtual std::string changed() const { return {}; }
    /// The ranges that hold data, ascending; what lies between them is known to read as zeros (holes of
    /// sparse files), or is a gap. One range over everything where this is not known.
    virtual std::vector<ByteRange> data_ranges() const { return {{0, size()}}; }
    /// Ranges that are known beforehand to be unreadable, each with why.
    struct Gap {
        ByteRange range;
        std::string why;
        bool not_copied = false;  ///< of an image: its source was not asked for them, or not to the end
    };
    virtual std::vector<Gap> gaps() const { return {}; }
};

/// `direct`: past the system's cache and without reading ahead, where it allows; reads are then of whole
/// sectors into memory that is aligned to 4096 bytes.
enum class Access : std::uint8_t { cached, direct };
/// An image file or a block device. Throws Error(input) when it cannot be opened or is neither.
std::unique_ptr<ByteDevice> open_file_device(const std::string& path, Access access = Access::cached);

/// How an image was cut into parts, where that was written down.
struct SplitShape {
    std::uint64_t size = 0;       ///< bytes of the image
    std::uint64_t part_size = 0;  ///< bytes of every part but the last
};
/// A set of image files, NAME.001, NAME.002, ..., given by its first part. Without a shape all but the last
/// have the first one's length. What a missing part had, or the end of one that was cut short, is a gap.
/// Throws Error(input), also for a part that is too long.
std::unique_ptr<ByteDevice> open_split_device(const std::string& first_part,
                                              const std::optional<SplitShape>& shape = std::nullopt);
/// True for the name of the first part of a split image whose second or later part is beside it.
bool is_split_image(const std::string& path);
/// The path itself, or all parts of the split image of which it is the first.
std::vector<std::string> files_of(const std::string& path);

/// Bytes of `range` before the first one that is in `set`; all of them without one.
inline std::size_t until_first_of(const RangeSet& set, const ByteRange& range) {
    const auto inside = set.within(range);
    return static_cast<std::size_t>(inside.empty() ? range.length : inside.front().offset - range.offset);
}

/// Is there nothing but zeros in it? Holes cost nothing, and it is read no further than to the first other
/// byte.
bool reads_as_zeros(const ByteDevice& device);

/// The stand-in for a failing drive: `inner`, of which `unreadable` cannot be read.
std::unique_ptr<ByteDevice> make_faulty_device(std::unique_ptr<ByteDevice> inner, RangeSet unreadable);

/// An image of which only a part was copied: the rest are gaps. Throws Error(input) when the coverage file is
/// not of this image: of another size, or the samples in it are of other bytes.
std::unique_ptr<ByteDevice> open_covered_device(const std::string& image, const std::string& coverage_path,
                                                Access access = Access::cached);

/// A file, the parts of one, or a block device, with the coverage that is beside it.
std::unique_ptr<ByteDevice> open_device(const std::string& path, Access access = Access::cached);

}  // namespace undershelf
