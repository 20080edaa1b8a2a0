#pragma once
// The image that a source is copied into: one file, or parts NAME.001, NAME.002, ... of one length. It has
// its full length from the start; what was not written, or is zeros, is a hole.

#include <string>
#include <vector>

#include "base/byte_range.hpp"
#include "base/bytes.hpp"
#include "base/file_descriptor.hpp"

namespace undershelf {

class ImageFile {
  public:
    /// The names of the files that an image of `size` bytes at `path` has. `part_size` 0: one.
    static std::vector<std::string> names(const std::string& path, std::uint64_t size,
                                          std::uint64_t part_size);

    /// Makes the files (`fresh`), or opens those that are there, and makes them as long as they must be.
    /// Throws Error(output) when that fails, Error(refused) when another capture has the image, or when one
    /// of the files is there and should not be.
    ImageFile(const std::string& path, std::uint64_t size, std::uint64_t part_size, bool fresh);

    /// The end of what an opened image held; what lies behind it was cut off since it was written.
    std::uint64_t was_long() const { return was_long_; }
    /// Long runs of zeros become holes. Throws std::system_error.
    void write(std::uint64_t offset, Bytes bytes);
    /// Makes a hole. Throws std::system_error.
    void clear(const ByteRange& range);
    /// False when it cannot be read. Safe to call from several threads.
    bool read(std::uint64_t offset, MutableBytes out) const;
    /// What was written is on the drive when this returns. Throws std::system_error.
    void sync();
    std::uint64_t size() const { return size_; }

  private:
    struct Part {
        std::string path;
        std::uint64_t offset = 0, length = 0;
        FileDescriptor fd;
        bool touched = false;  ///< written to since it was synced
    };
    /// Calls `visit(part, offset in it, range)` for what `range` has in each part.
    template <class Parts, class Visit>
    static void each(Parts& parts, const ByteRange& range, const Visit& visit);
    void write_out(Part& part, std::uint64_t at, Bytes bytes);
    void punch(Part& part, std::uint64_t at, std::uint64_t length);

    std::uint64_t size_;
    std::uint64_t was_long_ = 0;
    bool fresh_;
    std::vector<Part> parts_;
};

}  // namespace undershelf
