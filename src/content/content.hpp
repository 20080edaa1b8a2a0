#pragma once
// A file's content as format readers see it: bytes by offset, some of which may be missing; never a volume or
// a source.

#include <algorithm>
#include <string_view>

#include "base/bytes.hpp"

namespace undershelf {

class Content {
  public:
    virtual ~Content() = default;
    /// Bytes, missing ones among them.
    virtual std::uint64_t size() const = 0;
    /// Fills `out` from `offset` up to the first missing byte, or the end. Returns how many bytes that were.
    virtual std::size_t read(std::uint64_t offset, MutableBytes out) = 0;
};

/// Bytes in memory, which outlive it.
class BytesAsContent final : public Content {
  public:
    explicit BytesAsContent(Bytes bytes) : bytes_(bytes) {}
    std::uint64_t size() const override { return bytes_.size(); }
    std::size_t read(std::uint64_t offset, MutableBytes out) override {
        if (offset >= bytes_.size()) return 0;
        const auto part = bytes_.subspan(static_cast<std::size_t>(offset));
        const auto n = std::min(part.size(), out.size());
        std::copy_n(part.begin(), n, out.begin());
        return n;
    }

  private:
    Bytes bytes_;
};

/// A stretch of a content, as one of its own.
class PartOfContent final : public Content {
  public:
    PartOfContent(Content& whole, std::uint64_t offset, std::uint64_t size)
        : whole_(whole), offset_(offset), size_(size) {}
    std::uint64_t size() const override { return size_; }
    std::size_t read(std::uint64_t offset, MutableBytes out) override {
        if (offset >= size_) return 0;
        const auto n = static_cast<std::size_t>(std::min<std::uint64_t>(out.size(), size_ - offset));
        return whole_.read(offset_ + offset, out.first(n));
    }

  private:
    Content& whole_;
    std::uint64_t offset_, size_;
};

/// Reads a content from front to back through a small buffer.
class Cursor {
  public:
    /// The most that can be asked for at a time.
    static constexpr std::size_t window = 64 << 10;

    explicit Cursor(Content& content, std::uint64_t at = 0) : content_(content), at_(at) {}

    std::uint64_t at() const { return at_; }
    void go_to(std::uint64_t at) { at_ = at; }
    /// The next `count` bytes without going on; fewer where the content ends, or a byte is missing. Good
    /// until the next call.
    Bytes peek(std::size_t count);
    /// The same, going on after what it returns.
    Bytes take(std::size_t count) {
        const auto out = peek(count);
        at_ += out.size();
        return out;
    }
    /// Goes on over `count` bytes; false, standing before it, where one of them is missing.
    bool pass(std::uint64_t count);
    /// A structure at the cursor, after which it goes on; nothing when it is not there as a whole.
    template <class Structure>
    std::optional<Structure> take_structure() {
        const auto out = load<Structure>(peek(sizeof(Structure)));
        if (out) at_ += sizeof(Structure);
        return out;
    }

  private:
    Content& content_;
    std::uint64_t at_;
    std::uint64_t buffer_at_ = 0;
    ByteVector buffer_;
};

namespace content {

/// Bytes as characters.
inline std::string_view text_of(Bytes bytes) {
    return {reinterpret_cast<const char*>(bytes.data()), bytes.size()};
}
/// Does `bytes` begin with these characters?
bool begins_with(Bytes bytes, std::string_view magic);

}  // namespace content

}  // namespace undershelf
