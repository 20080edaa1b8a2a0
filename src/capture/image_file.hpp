#pragma once
// The image that a source is copied into: one file, or parts NAME.001, NAME.002, ... of one length. It has
// its full length from the start; what was not written, or is zeros, is a hole.

#include <string>
#include <vector>

#include "base/byte_range.hpp"
#include "base/bytes.hpp"
#include "writing/files.hpp"

namespace undershelf {

class ImageFile {
  public:
    /// The names of the files that an image of `size` bytes at `path` has. `part_size` 0: one.
    static std::vector<std::string> names(const std::string& path, std::uint64_t size,
                                          std::uint64_t part_size);

    /// Opens all files of the image, each for itself alone, and changes none. Files that it makes are taken
    /// away again unless keep() is called. Throws Error: `refused` when another capture has the image, when a
    /// file is there that should not be, is longer than it may be or is no file, and when it would land on
    /// the source; `output` when one cannot be opened.
    ImageFile(const SourceGuard& guard, const std::string& path, std::uint64_t size, std::uint64_t part_size,
              There there);
    ~ImageFile();
    ImageFile(const ImageFile&) = delete;
    ImageFile& operator=(const ImageFile&) = delete;

    /// Nothing but zeros is in it.
    bool reads_as_zeros() const { return places_with_data(1, 1 << 20).empty(); }
    /// Up to `most` stretches of up to `length` bytes that are not zeros, spread over what there is.
    std::vector<ByteRange> places_with_data(std::size_t most, std::uint64_t length) const;
    /// Bytes of `ranges` that have room on the drive already.
    std::uint64_t room_taken(const std::vector<ByteRange>& ranges) const;
    /// Makes all files as long as they must be. Throws Error(output).
    void set_length();
    void keep() { kept_ = true; }

    /// The end of what an opened image held; what lies after it was cut off since it was written.
    std::uint64_t was_long() const { return was_long_; }
    /// Long runs of zeros become holes. Throws std::system_error.
    void write(std::uint64_t offset, Bytes bytes);
    /// Makes a hole. Throws std::system_error.
    void clear(const ByteRange& range);
    /// Gives back the room of a range, whatever was written there. Throws std::system_error.
    void give_back(const ByteRange& range);
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
        bool made = false;     ///< by this, and not there before
        bool touched = false;  ///< written to since it was synced
    };
    /// Calls `visit(part, offset in it, range)` for what `range` has in each part.
    template <class Parts, class Visit>
    static void each(Parts& parts, const ByteRange& range, const Visit& visit);
    void write_out(Part& part, std::uint64_t at, Bytes bytes);
    void open(const SourceGuard& guard, Part& part, There there);
    void take_away();
    void punch(Part& part, std::uint64_t at, std::uint64_t length);

    std::uint64_t size_;
    std::uint64_t was_long_ = 0;
    bool kept_ = false;
    std::vector<Part> parts_;
};

}  // namespace undershelf
