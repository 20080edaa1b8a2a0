#include "content/media/iso_boxes.hpp"

#include <algorithm>
#include <array>

namespace undershelf::content {

using boost::endian::big_uint32_buf_t;
using boost::endian::big_uint64_buf_t;

std::optional<BoxHead> box_head(Bytes bytes) {
    const auto size = load<big_uint32_buf_t>(bytes);
    const auto type = load<big_uint32_buf_t>(bytes, 4);
    if (!type) return std::nullopt;
    BoxHead out{type->value(), size->value(), 8};
    if (out.size == 1) {
        const auto large = load<big_uint64_buf_t>(bytes, 8);
        if (!large) return std::nullopt;
        out.size = large->value();
        out.head = 16;
    }
    if (out.size != 0 && out.size < out.head) return std::nullopt;
    return out;
}

const Box* Boxes::first(std::uint32_t type) const {
    const auto it = std::find_if(boxes.begin(), boxes.end(), [&](const Box& b) { return b.type == type; });
    return it == boxes.end() ? nullptr : &*it;
}

Boxes boxes_in(Bytes body, std::size_t at) {
    Boxes out;
    while (!body.empty()) {
        // QuickTime ends some lists of boxes with four zeros.
        if (body.size() < 8 && all_zero(body)) break;
        const auto head = box_head(body);
        const auto size = head && head->size == 0 ? body.size() : head ? head->size : 0;
        constexpr std::size_t most = 1 << 16;
        if (!head || size > body.size() || head->type == 0 || out.boxes.size() == most) {
            out.wrong_at = at;
            break;
        }
        const auto bytes = static_cast<std::size_t>(size);
        out.boxes.push_back({head->type, at, body.first(bytes).subspan(head->head)});
        body = body.subspan(bytes);
        at += bytes;
    }
    return out;
}

std::optional<BoxPlace> find_box(Content& content, BoxPlace in, std::uint32_t type) {
    constexpr int most_boxes = 1000;
    for (int boxes = 0; boxes < most_boxes && in.at + 8 <= in.end; ++boxes) {
        std::array<std::uint8_t, largest_box_head> bytes;
        const auto head = box_head(Bytes(bytes).first(content.read(in.at, bytes)));
        if (!head) return std::nullopt;
        const auto size = head->size == 0 ? in.end - in.at : head->size;
        if (size > in.end - in.at) return std::nullopt;
        if (head->type == type) return BoxPlace{in.at + head->head, in.at + size};
        in.at += size;
    }
    return std::nullopt;
}

}  // namespace undershelf::content
