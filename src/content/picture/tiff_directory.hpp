#pragma once
// The directories of a TIFF file (TIFF 6.0, section 2; BigTIFF) and of what is built on it: entries of a tag,
// a type, a count and values, which are elsewhere when they are long.

#include <map>
#include <vector>

#include "content/content.hpp"

namespace undershelf::content {

/// Directories that contradict themselves.
struct TiffWrong {
    std::uint64_t at = 0;  ///< offset up to which nothing contradicts
    const char* why = "";
    bool cut = false;  ///< what is missing is after the content's end
};

struct TiffEntry {
    std::uint16_t type = 0;
    std::uint64_t count = 0;
    std::uint64_t at = 0;    ///< of its values, in the file
    std::uint64_t size = 0;  ///< bytes of them
};

struct TiffDirectory {
    std::uint64_t at = 0;
    std::map<std::uint16_t, TiffEntry> entries;  ///< by tag
    std::uint64_t next = 0;                      ///< of the directory after it; 0 when there is none

    const TiffEntry* entry(std::uint16_t tag) const;
};

class TiffFile {
  public:
    explicit TiffFile(Content& content) : content_(content) {}

    /// Reads all directories there are: the chain, and those that entries lead to. Throws TiffWrong.
    void read();

    const std::vector<TiffDirectory>& directories() const { return directories_; }
    /// What is after the byte order: 42, 43 for BigTIFF, others for cameras' own kinds.
    std::uint16_t magic() const { return magic_; }
    /// The end of everything that the directories tell of.
    std::uint64_t end() const { return end_; }
    /// Counts a stretch in. Throws TiffWrong where it goes beyond the content.
    void reach(const TiffDirectory& directory, std::uint64_t at, std::uint64_t size);

    /// Integer values. Costs no more than the bytes that are there. Throws TiffWrong for more than 4 Mi.
    std::vector<std::uint64_t> numbers(const TiffEntry& entry);
    std::uint64_t number(const TiffDirectory& directory, std::uint16_t tag, std::uint64_t otherwise = 0);

  private:
    std::uint64_t first_directory();
    TiffDirectory read_directory(std::uint64_t at);
    std::uint64_t value(Bytes bytes) const;  ///< of 1 to 8 bytes, in the file's order

    Content& content_;
    bool big_endian_ = false, wide_ = false;  ///< wide: BigTIFF
    std::uint16_t magic_ = 0;
    std::vector<TiffDirectory> directories_;
    std::uint64_t end_ = 0;
};

}  // namespace undershelf::content
