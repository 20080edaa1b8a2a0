#pragma once
// A content as libarchive reads it.

#include <archive.h>

#include "content/content.hpp"

namespace undershelf::content {

/// Dictionaries are as large as their writer liked, and nothing tells before they are unpacked.
constexpr std::uint64_t usual_archive_memory = 160 << 20;
/// Bytes that members unpack to, where they are only listed.
constexpr std::uint64_t most_passed_over = 4ull << 30;

/// The first `end` bytes of a content.
class ArchiveSource {
  public:
    ArchiveSource(Content& content, std::uint64_t end) : part_(content, 0, end) {}
    /// False where none of the formats that `a` supports is there. `a` must end before this does.
    bool open(archive* a) {
        archive_read_set_seek_callback(a, seek);
        return archive_read_open2(a, this, nullptr, read, skip, nullptr) == ARCHIVE_OK;
    }

  private:
    static la_ssize_t read(archive*, void* data, const void** out) {
        auto& r = *static_cast<ArchiveSource*>(data);
        const auto got = r.part_.read(r.at_, r.buffer_);
        r.at_ += got;
        *out = r.buffer_.data();
        return static_cast<la_ssize_t>(got);
    }
    static la_int64_t skip(archive*, void* data, la_int64_t count) {
        auto& r = *static_cast<ArchiveSource*>(data);
        const auto n = std::min(static_cast<std::uint64_t>(std::max<la_int64_t>(0, count)),
                                r.part_.size() - std::min(r.at_, r.part_.size()));
        r.at_ += n;
        return static_cast<la_int64_t>(n);
    }
    static la_int64_t seek(archive*, void* data, la_int64_t offset, int whence) {
        auto& r = *static_cast<ArchiveSource*>(data);
        const auto from = whence == SEEK_SET ? 0 : whence == SEEK_CUR ? r.at_ : r.part_.size();
        const auto to = static_cast<la_int64_t>(from) + offset;
        if (to < 0) return ARCHIVE_FATAL;
        r.at_ = static_cast<std::uint64_t>(to);
        return to;
    }

    PartOfContent part_;
    std::uint64_t at_ = 0;
    ByteVector buffer_ = ByteVector(64 << 10);
};

}  // namespace undershelf::content
