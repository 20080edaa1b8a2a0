#pragma once
// What is in an archive, a line each, for people: how long it is when unpacked, and its name.

#include <string_view>

#include "content/format.hpp"
#include "content/words.hpp"

namespace undershelf::content {

/// Lines of members, given on as they come.
class MemberLines {
  public:
    explicit MemberLines(const TakeText& take) : out_(take) {}
    ~MemberLines() { out_.flush(); }
    MemberLines(const MemberLines&) = delete;
    MemberLines& operator=(const MemberLines&) = delete;
    /// `size`: bytes, nothing where it is not told. False once that is enough.
    bool add(std::string_view name, std::optional<std::uint64_t> size);

  private:
    Pieces out_;
};

/// The members of what libarchive reads: 7z, CAB, RAR, and what is packed by gzip, bzip2, xz or zstd: an
/// archive in it, or one file.
void archive_outline(Content& content, const TakeText& take);
/// Those that a ZIP file's directory tells of.
void zip_outline(Content& content, const TakeText& take);

}  // namespace undershelf::content
