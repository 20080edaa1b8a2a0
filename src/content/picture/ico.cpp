// Icons and cursors of Windows: a directory of pictures, each a BMP without its file head, or a PNG.

#include <algorithm>

#include "content/density.hpp"
#include "content/format.hpp"
#include "content/list.hpp"
#include "content/media/media_units.hpp"
#include "content/picture/png.hpp"

namespace undershelf::content {

namespace {

using namespace std::string_view_literals;

using boost::endian::little_uint16_buf_t;
using boost::endian::little_uint32_buf_t;

struct Head {
    little_uint16_buf_t reserved, type, count;
};
struct Entry {
    std::uint8_t width, height, colors, reserved;
    little_uint16_buf_t planes, bits;
    little_uint32_buf_t size, offset;
};
static_assert(sizeof(Entry) == 16);

/// One plane, of few depths; of a cursor the place that points is there instead.
bool fits(const Entry& e, bool cursor) {
    constexpr unsigned widest = 256;
    const auto planes = e.planes.value(), bits = e.bits.value();
    if (e.reserved != 0) return false;
    return cursor ? planes <= widest && bits <= widest
                  : planes <= 1 && (bits == 0 || bits == 1 || bits == 4 || bits == 8 || bits == 16 ||
                                    bits == 24 || bits == 32);
}

class Ico final : public FormatReader {
  public:
    Recognised recognise(Bytes first) const override {
        const auto head = load<Head>(first);
        const auto entry = load<Entry>(first, sizeof(Head));
        if (!head || !entry || head->reserved.value() != 0) return {};
        const auto type = head->type.value(), count = head->count.value();
        constexpr unsigned icon = 1, cursor = 2, most = 256;
        const bool sane = (type == icon || type == cursor) && count > 0 && count <= most &&
                          fits(*entry, type == cursor) && entry->size.value() >= 40 &&
                          entry->offset.value() >= sizeof(Head) + count * sizeof(Entry) &&
                          entry->offset.value() < (1u << 20);
        return {"ico", sane ? 0.85 : 0.0};
    }

    Check check(Content& content, const CheckLimits&) const override {
        Check out;
        out.format = "ico";
        out.strength = Strength::weak;
        Cursor at(content);
        const auto head = *at.take_structure<Head>();
        std::uint64_t end = sizeof(Head) + head.count.value() * sizeof(Entry);
        Density density;
        for (unsigned i = 0; i < head.count.value(); ++i) {
            const auto entry = at.take_structure<Entry>();
            if (!entry) return out.fails(sizeof(Head), "its directory is cut off");
            const std::uint64_t offset = entry->offset.value(), size = entry->size.value();
            if (offset > content.size() || size > content.size() - offset)
                return out.fails(std::min(end, content.size()), "it ends before its last picture");
            if (!picture_holds(content, offset, size, density))
                return out.fails(offset, "a picture in it makes no sense");
            end = std::max(end, offset + size);
        }
        out.strength = density.strength();
        return out.ends(end);
    }

  private:
    static bool picture_holds(Content& content, std::uint64_t offset, std::uint64_t size, Density& density) {
        PartOfContent picture(content, offset, size);
        ByteVector first(16);
        first.resize(picture.read(0, first));
        if (png().recognise(first).sure > 0) {
            density.add_decoded(size);
            return png().check(picture, {}).complete;
        }
        density.add_unseen(size);
        constexpr unsigned bitmap_head = 40;
        const auto head_size = load<little_uint32_buf_t>(first);
        return head_size && head_size->value() == bitmap_head && readable(picture, 0, size);
    }
};

constexpr Format rows[] = {
    {.word = "ico",
     .name = "icon",
     .kind = Kind::picture,
     .extensions = " ico cur ",
     .shared = " ico ",
     .family = "ico",
     .strength = Strength::fair,
     .delay = 64 * KiB,
     .holds_files = true,
     .marks = "\0\0"sv},
};

}  // namespace

FormatRows ico_formats() {
    static const Ico reader;
    return {rows, &reader};
}

}  // namespace undershelf::content
