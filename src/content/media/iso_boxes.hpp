#pragma once
// Boxes of the ISO base media format (ISO/IEC 14496-12, 4.2) and of QuickTime files: a size that counts its
// own head, a type of four characters, then the body, which may be boxes again.

#include <optional>
#include <vector>

#include "content/content.hpp"

namespace undershelf::content {

constexpr std::uint32_t box_type(const char (&name)[5]) {
    std::uint32_t out = 0;
    for (int i = 0; i < 4; ++i) out = out << 8 | static_cast<std::uint8_t>(name[i]);
    return out;
}

struct BoxHead {
    std::uint32_t type = 0;
    std::uint64_t size = 0;  ///< bytes, head included; 0: up to the end of the file
    std::size_t head = 0;    ///< bytes
};
constexpr std::size_t largest_box_head = 16;  ///< bytes

/// The head that `bytes` begin with; nothing when they are too few or it contradicts itself.
std::optional<BoxHead> box_head(Bytes bytes);

/// A box in memory.
struct Box {
    std::uint32_t type = 0;
    std::size_t at = 0;  ///< of its head, from where the outermost one's body begins
    Bytes body;
};

struct Boxes {
    std::vector<Box> boxes;
    std::optional<std::size_t> wrong_at;  ///< where no box is that ends within its parent

    const Box* first(std::uint32_t type) const;
};
/// The boxes that a body consists of, `at` where it begins; no more than 65,536, which nobody writes.
Boxes boxes_in(Bytes body, std::size_t at);

/// The body of a box in a content.
struct BoxPlace {
    std::uint64_t at = 0, end = 0;
};
/// The first box of a type in a stretch of boxes, of which a thousand are looked at.
std::optional<BoxPlace> find_box(Content& content, BoxPlace in, std::uint32_t type);

}  // namespace undershelf::content
