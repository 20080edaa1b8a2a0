// HEIF and AVIF pictures (ISO/IEC 23008-12, AV1 Image File Format): the boxes of movies, with an index of
// items (ISO/IEC 14496-12, 8.11) instead of tracks. HEVC items are looked at as in movies; of AV1 ones the
// lengths of their units must add up.

#include <algorithm>
#include <array>
#include <map>

#include "content/format.hpp"
#include "content/list.hpp"
#include "content/media/iso_boxes.hpp"
#include "content/media/media_units.hpp"
#include "content/memory.hpp"
#include "content/picture/picture_details.hpp"
#include "content/titles.hpp"

namespace undershelf::content {

namespace {

constexpr std::size_t most_index = 16 << 20;  ///< bytes of the `meta` box, read into memory

/// Numbers of a full box's body, one after the other. After the end they are 0, and said to be.
class Fields {
  public:
    explicit Fields(Bytes bytes) : bytes_(bytes) {}
    std::uint64_t take(std::size_t size) {
        if (size > bytes_.size()) {
            short_ = true;
            bytes_ = {};
            return 0;
        }
        std::uint64_t out = 0;
        for (const auto b : bytes_.first(size)) out = out << 8 | b;
        bytes_ = bytes_.subspan(size);
        return out;
    }
    bool is_short() const { return short_; }

  private:
    Bytes bytes_;
    bool short_ = false;
};

struct Extent {
    std::uint64_t item = 0, offset = 0, size = 0;  ///< bytes of the file
};

/// 8.11.3. Nothing when it makes no sense. Items within the box itself (`idat`) are left out.
std::optional<std::vector<Extent>> extents_in(Bytes iloc) {
    constexpr std::size_t most_extents = 1 << 16;
    Fields f(iloc);
    const auto version = f.take(1);
    f.take(3);
    const auto sizes = f.take(2);
    const std::size_t offset_size = sizes >> 12, length_size = sizes >> 8 & 15, base_size = sizes >> 4 & 15,
                      index_size = version > 0 ? sizes & 15 : 0;
    if (version > 2 || offset_size > 8 || length_size > 8 || base_size > 8 || index_size > 8)
        return std::nullopt;
    const auto items = f.take(version < 2 ? 2 : 4);
    std::vector<Extent> out;
    for (std::uint64_t i = 0; i < items && !f.is_short(); ++i) {
        const auto id = f.take(version < 2 ? 2 : 4);
        const auto method = version > 0 ? f.take(2) & 15 : 0;
        f.take(2);
        const auto base = f.take(base_size);
        const auto extents = f.take(2);
        for (std::uint64_t e = 0; e < extents && !f.is_short(); ++e) {
            f.take(index_size);
            const auto offset = f.take(offset_size), size = f.take(length_size);
            if (out.size() == most_extents) return std::nullopt;
            if (method == 0) out.push_back({id, base + offset, size});
        }
    }
    if (f.is_short()) return std::nullopt;
    return out;
}

/// 8.11.6: what each item is.
std::map<std::uint64_t, std::uint32_t> item_types(Bytes iinf) {
    std::map<std::uint64_t, std::uint32_t> out;
    if (iinf.size() < 8) return out;
    const std::size_t head = iinf[0] == 0 ? 6 : 8;
    for (const auto& infe : boxes_in(iinf.subspan(head), 0).boxes) {
        Fields f(infe.body);
        const auto version = f.take(1);
        f.take(3);
        const auto id = f.take(version < 3 ? 2 : 4);
        f.take(2);
        if (version >= 2) out[id] = static_cast<std::uint32_t>(f.take(4));
    }
    return out;
}

/// How many bytes the lengths of HEVC's NAL units take, which each picture's configuration tells (ISO/IEC
/// 14496-15, 8.3.3); nothing where there is none, or they differ.
std::optional<unsigned> nal_length_size(const Boxes& meta) {
    const auto* properties = meta.first(box_type("iprp"));
    const auto within = properties ? boxes_in(properties->body, 0) : Boxes();
    const auto* container = within.first(box_type("ipco"));
    const auto all = container ? boxes_in(container->body, 0) : Boxes();
    std::optional<unsigned> out;
    for (const auto& property : all.boxes) {
        if (property.type != box_type("hvcC") || property.body.size() < 22) continue;
        const auto size = (property.body[21] & 3u) + 1;
        if (out.value_or(size) != size) return std::nullopt;
        out = size;
    }
    return out;
}

/// AV1 (its specification, 5.3): units whose lengths, seven bits a byte, add up.
bool obus_hold(Content& content, const Extent& extent, Density& density) {
    PartOfContent item(content, extent.offset, extent.size);
    Cursor at(item);
    while (at.at() < extent.size) {
        const auto head = at.take(1);
        if (head.empty() || head[0] & 0x81) return false;  // bits that are 0
        const bool extended = head[0] & 4, sized = head[0] & 2;
        if (extended) at.take(1);
        std::uint64_t size = 0;
        if (sized) {
            for (unsigned i = 0;; ++i) {
                const auto byte = at.take(1);
                if (byte.empty() || i == 8) return false;
                size |= std::uint64_t{byte[0] & 0x7Fu} << (7 * i);
                if (!(byte[0] & 0x80)) break;
            }
        } else {
            size = extent.size - at.at();
        }
        if (size > extent.size - at.at() || !readable(item, at.at(), size)) return false;
        // Pictures are a unit or two: a lost tail of the last one shows nowhere.
        density.add_unseen(size);
        at.go_to(at.at() + size);
    }
    return true;
}

class HeifCheck {
  public:
    explicit HeifCheck(Content& content, std::string_view format) : content_(content) {
        out_.format = format;
    }

    Check run() {
        out_.strength = Strength::weak;
        std::uint64_t at = 0, meta_at = 0;
        while (at < content_.size()) {
            std::array<std::uint8_t, largest_box_head> bytes;
            const auto head = box_head(Bytes(bytes).first(content_.read(at, bytes)));
            if (!head || !is_outer(head->type) || (at > 0 && head->type == box_type("ftyp"))) break;
            const auto left = content_.size() - at;
            const auto size = head->size == 0 ? left : head->size;
            if (size > left) return cut(at, head->type);
            if (head->type == box_type("meta") && meta_.empty()) {
                if (size > most_index) return out_.fails(at, "its index makes no sense");
                meta_at = at;
                memory_.grow(size - head->head);
                meta_.resize(static_cast<std::size_t>(size - head->head));
                if (content_.read(at + head->head, meta_) < meta_.size())
                    return out_.fails(at, "bytes of its index are missing");
            }
            at += size;
        }
        if (meta_.size() < 4) return out_.fails(std::min<std::uint64_t>(at, 8), "its index is missing");
        const auto boxes = boxes_in(Bytes(meta_).subspan(4), 0);
        const auto* iloc = boxes.first(box_type("iloc"));
        const auto extents = iloc ? extents_in(iloc->body) : std::nullopt;
        if (boxes.wrong_at || !extents) return out_.fails(meta_at, "its index makes no sense");
        nal_length_size_ = nal_length_size(boxes);
        const auto* iinf = boxes.first(box_type("iinf"));
        return check_items(*extents, iinf ? item_types(iinf->body) : std::map<std::uint64_t, std::uint32_t>(),
                           meta_at, at);
    }

  private:
    static bool is_outer(std::uint32_t type) {
        constexpr auto outer = std::to_array<std::uint32_t>(
            {box_type("ftyp"), box_type("meta"), box_type("mdat"), box_type("moov"), box_type("free"),
             box_type("skip"), box_type("uuid"), box_type("mpvd"), box_type("styp"), box_type("idat")});
        return std::find(outer.begin(), outer.end(), type) != outer.end();
    }

    Check& cut(std::uint64_t at, std::uint32_t type) {
        const bool data = type == box_type("mdat") && !meta_.empty();
        return out_.fails(data ? content_.size() : at, "it ends before its last box");
    }

    Check& check_items(std::vector<Extent> extents, const std::map<std::uint64_t, std::uint32_t>& types,
                       std::uint64_t meta_at, std::uint64_t end) {
        std::sort(extents.begin(), extents.end(),
                  [](const Extent& a, const Extent& b) { return a.offset < b.offset; });
        std::uint64_t read = 0;
        for (const auto& e : extents) {
            if (e.offset > end || e.size > end - e.offset)
                return out_.fails(meta_at, "an item of its index is after its end");
            if ((read += e.size) / 4 > end) return out_.fails(meta_at, "the items of its index overlap");
            const auto type = types.find(e.item);
            if (!holds(e, type == types.end() ? 0 : type->second))
                return out_.fails(e.offset, "an item of it makes no sense");
        }
        out_.strength = density_.strength();
        return out_.ends(end);
    }

    bool holds(const Extent& e, std::uint32_t type) {
        if (nal_length_size_ && (type == box_type("hvc1") || type == box_type("hev1")))
            return nal_units(*nal_length_size_)->holds(content_, e.offset, e.size, density_);
        if (type == box_type("av01")) return obus_hold(content_, e, density_);
        if (type == box_type("jpeg")) return jpeg_units()->holds(content_, e.offset, e.size, density_);
        density_.add_unseen(e.size);
        return readable(content_, e.offset, e.size);
    }

    Content& content_;
    Check out_;
    MemoryClaim memory_;
    ByteVector meta_;
    std::optional<unsigned> nal_length_size_;
    Density density_;
};

class Heif final : public FormatReader {
  public:
    Recognised recognise(Bytes first) const override {
        const auto head = box_head(first);
        const auto brand = load<boost::endian::big_uint32_buf_t>(first, 8);
        if (!head || !brand || head->type != box_type("ftyp") || head->size < 16 || head->size > 4096)
            return {};
        const auto is = [](std::uint32_t b, std::initializer_list<std::uint32_t> brands) {
            return std::find(brands.begin(), brands.end(), b) != brands.end();
        };
        if (is(brand->value(), {box_type("avif"), box_type("avis")})) return {"avif", 1};
        if (is(brand->value(), {box_type("heic"), box_type("heix"), box_type("heim"), box_type("heis"),
                                box_type("hevc"), box_type("hevx")}))
            return {"heic", 1};
        if (!is(brand->value(), {box_type("mif1"), box_type("mif2"), box_type("msf1")})) return {};
        // A general brand: the compatible ones say which it is.
        for (std::size_t at = 16; at + 4 <= std::min<std::uint64_t>(head->size, first.size()); at += 4) {
            if (is(load<boost::endian::big_uint32_buf_t>(first, at)->value(),
                   {box_type("avif"), box_type("avis")}))
                return {"avif", 1};
        }
        return {"heic", 1};
    }

    Check check(Content& content, const CheckLimits&) const override {
        Cursor start(content);
        return HeifCheck(content, recognise(start.peek(4096)).format).run();
    }

    /// Of the item that is Exif (ISO/IEC 23008-12, A.2.1): a length to skip, then a TIFF file.
    void exif(Content& content, const UseExif& use) const override {
        const auto meta = index_of(content);
        if (meta.size() < 4) return;
        const auto boxes = boxes_in(Bytes(meta).subspan(4), 0);
        const auto *iloc = boxes.first(box_type("iloc")), *iinf = boxes.first(box_type("iinf"));
        const auto extents = iloc && iinf ? extents_in(iloc->body) : std::nullopt;
        if (!extents) return;
        const auto types = item_types(iinf->body);
        for (const auto& e : *extents) {
            const auto type = types.find(e.item);
            if (type == types.end() || type->second != box_type("Exif") || e.size < 4) continue;
            PartOfContent item(content, e.offset, e.size);
            const auto skipped = Cursor(item).take_structure<boost::endian::big_uint32_buf_t>();
            if (!skipped || skipped->value() > e.size - 4) return;
            PartOfContent tiff(item, 4ull + skipped->value(), e.size - 4 - skipped->value());
            use(tiff);
            return;
        }
    }
    std::string title(Content& content) const override { return exif_title_by(*this, content); }
    InnerDates dates(Content& content) const override { return exif_dates_by(*this, content); }
    ContentDetails details(Content& content) const override {
        const auto meta = index_of(content);
        if (meta.size() < 4) return {};
        const auto boxes = boxes_in(Bytes(meta).subspan(4), 0);
        const auto* properties = boxes.first(box_type("iprp"));
        if (!properties) return {};
        const auto within = boxes_in(properties->body, 0);
        const auto* container = within.first(box_type("ipco"));
        return container ? with_camera(heif_details(container->body), *this, content) : ContentDetails();
    }

  private:
    static ByteVector index_of(Content& content) {
        constexpr int most_boxes = 16;
        std::uint64_t at = 0;
        for (int boxes = 0; boxes < most_boxes; ++boxes) {
            std::array<std::uint8_t, largest_box_head> bytes;
            const auto head = box_head(Bytes(bytes).first(content.read(at, bytes)));
            if (!head || head->size < head->head) break;
            if (head->type == box_type("meta")) {
                ByteVector out(
                    static_cast<std::size_t>(std::min<std::uint64_t>(head->size - head->head, most_index)));
                out.resize(content.read(at + head->head, out));
                return out;
            }
            at += head->size;
        }
        return {};
    }
};

// A glance knows them by the box that films begin with as well.
constexpr Format rows[] = {
    {.word = "heic",
     .name = "HEIF picture",
     .kind = Kind::picture,
     .extensions = " heic heif ",
     .family = "heif",
     .strength = Strength::fair,
     .delay = 64 * KiB,
     .filling = Filling::dense,
     .holds_files = true},
    {.word = "avif",
     .name = "AVIF picture",
     .kind = Kind::picture,
     .extensions = " avif ",
     .family = "heif",
     .strength = Strength::fair,
     .delay = 64 * KiB,
     .filling = Filling::dense,
     .holds_files = true},
};

}  // namespace

FormatRows heif_formats() {
    static const Heif reader;
    return {rows, &reader};
}

}  // namespace undershelf::content
